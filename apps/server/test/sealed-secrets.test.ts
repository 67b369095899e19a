import { sealOlder } from '../src/database/seal-older';
import { sealing } from '../src/database/sealed';
import { serverWith } from './harness';
import { SET_UP } from './world';

const CODES = 'JBSWY3DPEHPK3PXP';

describe('secrets from before the installation had one of its own', () => {
  const { server, http, admin } = serverWith(SET_UP);
  const kept = async () => {
    const [row] = await server().database.query<{ codes: string; pending: string | null; hook: string }>(
      `select p.second_factor as codes, p.second_factor_pending as pending, h.secret as hook from person p, hook h where p.email = 'ada@test.example'`,
    );
    if (!row) throw new Error('There is nobody with a second factor.');
    return row;
  };

  it('are sealed once there is one, each once, and opened by it alone', async () => {
    const hook = { name: 'Till', of: 'contact', mapping: { email: 'mail' } };
    const { body } = await http().post('/api/app/hooks').set(admin()).send(hook).expect(201);
    const { secret } = body as { secret: string };
    await server().database.query(`update person set second_factor = $1 where email = 'ada@test.example'`, [CODES]);
    await sealOlder(server().database, undefined);
    expect(await kept()).toEqual({ codes: CODES, pending: null, hook: secret });
    await sealOlder(server().database, 'what the operator keeps');
    const sealed = await kept();
    expect(JSON.stringify(sealed)).not.toContain(CODES);
    expect(JSON.stringify(sealed)).not.toContain(secret);
    const { from } = sealing('what the operator keeps');
    expect([from(sealed.codes), from(sealed.hook), sealed.pending]).toEqual([CODES, secret, null]);
    await sealOlder(server().database, 'what the operator keeps');
    await sealOlder(server().database, 'another one');
    expect(await kept()).toEqual(sealed);
  });
});
