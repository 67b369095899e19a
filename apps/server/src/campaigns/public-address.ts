import { Injectable } from '@nestjs/common';

/** Where links in messages reach this server, without a slash at its end; known once it listens. */
@Injectable()
export class PublicAddress {
  url = process.env['SIEVE_URL'] ?? '';
}
