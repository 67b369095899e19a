import { Controller } from '@nestjs/common';
import { type Sent } from '@eager-sieve/contracts';
import { Handles, SentHere } from '../http/route';
import { CallerIs, callerRef, type Caller } from '../settings/access';
import { TagMergesService } from './tag-merges.service';
import { TagsService } from './tags.service';

@Controller()
export class TagsController {
  constructor(
    private readonly tags: TagsService,
    private readonly merges: TagMergesService,
  ) {}

  @Handles('tagFigures')
  figures() {
    return this.tags.figures();
  }

  @Handles('rehearseTagMerge')
  rehearse(@SentHere() { params, body }: Sent<'rehearseTagMerge'>, @CallerIs() caller: Caller) {
    return this.merges.rehearse(params.key, body.into, callerRef(caller));
  }

  @Handles('mergeTag')
  merge(@SentHere() { params, body }: Sent<'mergeTag'>, @CallerIs() caller: Caller) {
    return this.merges.begin(params.key, body.into, callerRef(caller));
  }

  @Handles('tagMerges')
  async list(@SentHere() { params }: Sent<'tagMerges'>) {
    return { merges: await this.merges.list(params.key) };
  }

  @Handles('takeBackTagMerge')
  takeBack(@SentHere() { params }: Sent<'takeBackTagMerge'>) {
    return this.merges.giveBack(params.id);
  }
}
