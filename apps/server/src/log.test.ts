import { QueryFailedError } from 'typeorm';
import { loggedError, makeLog } from './log';

const MARK = 'anna@place.example';

describe('the log', () => {
  it('tells of an error what it was and where, and nothing that was sent', () => {
    const driver = Object.assign(new Error(`duplicate key value (${MARK})`), {
      code: '23505',
      detail: `Key (email)=(${MARK}) already exists.`,
      constraint: 'contact_email',
      table: 'contact',
    });
    const error = new QueryFailedError(`insert into contact values ('${MARK}')`, [MARK], driver);
    const lines: string[] = [];
    makeLog({ write: (line: string) => void lines.push(line) }).error({ err: error }, 'a request failed');
    expect(lines.join('')).not.toContain(MARK);
    expect(JSON.parse(lines[0] ?? '')).toMatchObject({
      msg: 'a request failed',
      err: {
        type: 'QueryFailedError',
        code: '23505',
        constraint: 'contact_email',
        table: 'contact',
        cause: { type: 'Error', code: '23505' },
      },
    });
    expect(loggedError(error).at.length).toBeGreaterThan(0);
  });

  it('keeps no message of an error that has it as its name, its code or its cause, and takes whatever is thrown', () => {
    const nameless = Object.assign(new Error(MARK, { cause: new TypeError(`not ${MARK}`) }), { name: MARK, code: `for ${MARK}` });
    for (const thrown of [nameless, MARK, null, undefined, { stack: MARK }, Object.assign(new Error('x'), { driverError: MARK })])
      expect(JSON.stringify(loggedError(thrown))).not.toContain(MARK);
  });
});
