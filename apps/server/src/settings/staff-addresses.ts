import { Injectable, type CallHandler, type ExecutionContext, type NestInterceptor } from '@nestjs/common';
import { type Request } from 'express';
import { map, mergeMap, from, type Observable } from 'rxjs';
import { Database } from '../database/database';
import { may } from './access';
import { peopleWithAccess } from './known-people';

const SOMEBODY = 'a colleague';

/** Keeps the addresses of those who work here from whoever may not see who does: definitions name owners by their address. Those of a team know each other’s where they see each other’s contacts. */
@Injectable()
export class StaffAddressesInterceptor implements NestInterceptor {
  constructor(private readonly database: Database) {}

  intercept(context: ExecutionContext, next: CallHandler): Observable<unknown> {
    const { caller } = context.switchToHttp().getRequest<Request>();
    if (caller?.kind !== 'person' || may(caller, 'people:read')) return next.handle();
    const known = [caller.session.person.email, ...(caller.own?.owners ?? [])];
    return next.handle().pipe(
      mergeMap((answer: unknown) =>
        from(peopleWithAccess(this.database)).pipe(
          map((people) =>
            withoutAddresses(
              answer,
              [...people].filter((address) => !known.includes(address)),
            ),
          ),
        ),
      ),
    );
  }
}

/** The same answer, with "a colleague" where an address stood. */
export function withoutAddresses(answer: unknown, addresses: readonly string[]): unknown {
  if (answer === undefined) return undefined;
  const hidden = (text: string): string => addresses.reduce((said, address) => said.replaceAll(address, SOMEBODY), text);
  return JSON.parse(JSON.stringify(answer), (_key, value: unknown) => (typeof value === 'string' ? hidden(value) : value));
}
