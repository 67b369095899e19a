import { Controller } from '@nestjs/common';
import { openApiDocument, type Sent } from '@eager-sieve/contracts';
import { faulty } from '../http/problem';
import { Handles, SentHere } from '../http/route';
import { VERSION } from '../version';
import { AuditService } from '../ledger/audit.service';
import { CallerIs, callerRef, ownOf, type Caller } from './access';
import { BuildsService } from './builds.service';
import { DefinitionsService } from './definitions.service';
import { KeysService } from './keys.service';
import { StatusService } from './status.service';

@Controller()
export class SettingsController {
  constructor(
    private readonly keys: KeysService,
    private readonly definitions: DefinitionsService,
  ) {}

  @Handles('keys')
  listKeys() {
    return this.keys.list();
  }

  @Handles('createKey')
  createKey(@SentHere() { body }: Sent<'createKey'>, @CallerIs() caller: Caller) {
    return this.keys.create(body.name, body.scopes, callerRef(caller));
  }

  @Handles('revokeKey')
  revokeKey(@SentHere() { params }: Sent<'revokeKey'>, @CallerIs() caller: Caller) {
    return this.keys.revoke(params.id, callerRef(caller));
  }

  @Handles('renameKey')
  renameKey(@SentHere() { params, body }: Sent<'renameKey'>, @CallerIs() caller: Caller) {
    return this.keys.rename(params.id, body.name, callerRef(caller));
  }

  @Handles('restoreKey')
  restoreKey(@SentHere() { params }: Sent<'restoreKey'>, @CallerIs() caller: Caller) {
    return this.keys.restore(params.id, callerRef(caller));
  }

  @Handles('versions')
  versions(@SentHere() { params }: Sent<'versions'>, @CallerIs() caller: Caller) {
    return this.definitions.versions(params.kind, params.key, ownOf(caller));
  }

  @Handles('catalogue')
  catalogue(@CallerIs() caller: Caller) {
    return this.definitions.catalogue(ownOf(caller));
  }
}

@Controller()
export class DefinitionsController {
  constructor(
    private readonly definitions: DefinitionsService,
    private readonly statusService: StatusService,
    private readonly builds: BuildsService,
    private readonly audit: AuditService,
  ) {}

  @Handles('definitions')
  async get(@CallerIs() caller: Caller) {
    await this.audit.record('definitions exported', {}, callerRef(caller));
    return this.definitions.document(ownOf(caller));
  }

  @Handles('putDefinitions')
  async put(@SentHere() { body, query }: Sent<'putDefinitions'>, @CallerIs() caller: Caller) {
    const answer = await this.definitions.put(body, callerRef(caller), query.rehearse, query.force);
    if (answer.refused.length > 0 && !query.rehearse)
      throw faulty(
        answer.refused.flatMap((each) =>
          each.faults.map((fault) => ({ ...fault, path: fault.path.length > 0 ? fault.path : [each.item] })),
        ),
        'Nothing was saved.',
      );
    return answer;
  }

  @Handles('status')
  status() {
    return this.statusService.status();
  }

  @Handles('steerBuild')
  steer(@SentHere() { params, body }: Sent<'steerBuild'>, @CallerIs() caller: Caller) {
    return this.builds.steer(params.id, body, callerRef(caller));
  }

  @Handles('openApi')
  openApi() {
    return openApiDocument(VERSION);
  }
}
