import { type ImportRehearsal, type ImportView } from '@eager-sieve/contracts';
import { type serverWith } from './harness';

type Served = ReturnType<typeof serverWith>;

/** Sends files to be imported, or to be rehearsed, and waits until what came of them has been worked. */
export function importing(server: Served['server'], http: Served['http'], admin: Served['admin']) {
  const send = async <T>(path: string, body: string | Buffer, options: object, type = 'text/csv'): Promise<T> => {
    const response = await http()
      .post(path)
      .query({ options: JSON.stringify(options) })
      .set(admin())
      .set('content-type', type)
      .send(body);
    await server().idle();
    expect(response.status).toBeLessThan(300);
    return response.body as T;
  };
  return {
    bring: (body: string | Buffer, options: object, type?: string) => send<ImportView>('/api/app/imports', body, options, type),
    rehearse: (body: string | Buffer, options: object, type?: string) =>
      send<ImportRehearsal>('/api/app/imports/rehearse', body, options, type),
  };
}
