import { Controller } from '@nestjs/common';
import { type Sent } from '@eager-sieve/contracts';
import { Handles, SentHere } from '../http/route';
import { CallerIs, callerRef, type Caller } from '../settings/access';
import { WatchesService } from './watches.service';

@Controller()
export class WatchesController {
  constructor(private readonly watches: WatchesService) {}

  @Handles('watches')
  list() {
    return this.watches.list();
  }

  @Handles('watchedPlaces')
  places() {
    return this.watches.places();
  }

  @Handles('watch')
  one(@SentHere() { params }: Sent<'watch'>) {
    return this.watches.one(params.id);
  }

  @Handles('lookAtPlace')
  look(@SentHere() { body }: Sent<'lookAtPlace'>) {
    return this.watches.look(body);
  }

  @Handles('rehearseWatch')
  rehearse(@SentHere() { body }: Sent<'rehearseWatch'>) {
    return this.watches.rehearse(body);
  }

  @Handles('makeWatch')
  make(@SentHere() { body }: Sent<'makeWatch'>, @CallerIs() caller: Caller) {
    return this.watches.make(body, callerRef(caller));
  }

  @Handles('changeWatch')
  change(@SentHere() { params, body }: Sent<'changeWatch'>, @CallerIs() caller: Caller) {
    return this.watches.change(params.id, body, callerRef(caller));
  }

  @Handles('removeWatch')
  remove(@SentHere() { params }: Sent<'removeWatch'>, @CallerIs() caller: Caller) {
    return this.watches.remove(params.id, callerRef(caller));
  }

  @Handles('readWatch')
  read(@SentHere() { params }: Sent<'readWatch'>, @CallerIs() caller: Caller) {
    return this.watches.readNow(params.id, callerRef(caller));
  }

  @Handles('answerGone')
  answerGone(@SentHere() { params, body }: Sent<'answerGone'>, @CallerIs() caller: Caller) {
    return this.watches.answerGone(params.id, body.act, callerRef(caller));
  }
}
