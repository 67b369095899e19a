import { Controller } from '@nestjs/common';
import { type Sent } from '@eager-sieve/contracts';
import { Handles, SentHere } from '../http/route';
import { PlayService } from './play.service';

@Controller()
export class StandInsController {
  constructor(private readonly plays: PlayService) {}

  @Handles('play')
  play() {
    return this.plays.state();
  }

  @Handles('startPlay')
  start(@SentHere() { body }: Sent<'startPlay'>): Promise<void> {
    return this.plays.start(body);
  }

  @Handles('stopPlay')
  stop(): void {
    this.plays.stop();
  }
}
