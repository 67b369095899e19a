import { Controller } from '@nestjs/common';
import { type Sent } from '@eager-sieve/contracts';
import { Handles, SentHere } from '../http/route';
import { CallerIs, callerRef, type Caller } from './access';
import { FieldsService } from './fields.service';

@Controller()
export class FieldsController {
  constructor(private readonly fields: FieldsService) {}

  @Handles('fieldFigures')
  figures(@SentHere() { params }: Sent<'fieldFigures'>) {
    return this.fields.figures(params.key);
  }

  @Handles('mergeChoice')
  mergeChoice(@SentHere() { params, query, body }: Sent<'mergeChoice'>, @CallerIs() caller: Caller) {
    return this.fields.mergeChoice(params.key, body.choice, body.into, callerRef(caller), query.rehearse);
  }

  @Handles('changeType')
  changeType(@SentHere() { params, query, body }: Sent<'changeType'>, @CallerIs() caller: Caller) {
    return this.fields.changeType(params.key, body.type, callerRef(caller), query.rehearse);
  }
}
