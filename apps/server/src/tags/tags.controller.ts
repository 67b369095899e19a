import { Controller } from '@nestjs/common';
import { type Sent } from '@eager-sieve/contracts';
import { Handles, SentHere } from '../http/route';
import { CallerIs, callerRef, type Caller } from '../settings/access';
import { TagRehearsalsService } from './tag-rehearsals.service';
import { TagReplacementsService } from './tag-replacements.service';
import { TagsService } from './tags.service';

@Controller()
export class TagsController {
  constructor(
    private readonly tags: TagsService,
    private readonly replacements: TagReplacementsService,
    private readonly rehearsals: TagRehearsalsService,
  ) {}

  @Handles('tagFigures')
  figures() {
    return this.tags.figures();
  }

  @Handles('rehearseTagReplacement')
  rehearse(@SentHere() { params, body }: Sent<'rehearseTagReplacement'>, @CallerIs() caller: Caller) {
    return this.rehearsals.rehearse(params.key, body, callerRef(caller));
  }

  @Handles('replaceTag')
  replacement(@SentHere() { params, body }: Sent<'replaceTag'>, @CallerIs() caller: Caller) {
    return this.replacements.begin(params.key, body, callerRef(caller));
  }

  @Handles('tagReplacements')
  async list(@SentHere() { params }: Sent<'tagReplacements'>) {
    return { replacements: await this.replacements.list(params.key) };
  }

  @Handles('takeBackTagReplacement')
  takeBack(@SentHere() { params }: Sent<'takeBackTagReplacement'>, @CallerIs() caller: Caller) {
    return this.replacements.giveBack(params.id, callerRef(caller));
  }
}
