import { Controller } from '@nestjs/common';
import { Handles } from '../http/route';
import { TagsService } from './tags.service';

@Controller()
export class TagsController {
  constructor(private readonly tags: TagsService) {}

  @Handles('tagFigures')
  figures() {
    return this.tags.figures();
  }
}
