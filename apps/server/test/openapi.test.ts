import { openApiDocument } from '@eager-sieve/contracts';

type Schema = { properties?: Record<string, Schema>; items?: Schema; required?: string[] };

/** Every property of an answer, as a path: what a program outside may rely on. */
function paths(schema: Schema | undefined, at: string): string[] {
  if (!schema) return [];
  return [
    ...Object.entries(schema.properties ?? {}).flatMap(([name, inner]) => [`${at}.${name}`, ...paths(inner, `${at}.${name}`)]),
    ...paths(schema.items, `${at}[]`),
  ];
}

describe('the OpenAPI document', () => {
  const document = openApiDocument('test') as {
    openapi: string;
    paths: Record<
      string,
      Record<string, { responses: Record<string, { content?: Record<string, { schema: Schema }> }>; security: unknown }>
    >;
  };

  it('names every call with its scope', () => {
    expect(document.openapi).toBe('3.1.0');
    expect(
      Object.entries(document.paths).flatMap(([path, methods]) =>
        Object.entries(methods).map(([method, operation]) => `${method} ${path} ${JSON.stringify(operation.security)}`),
      ),
    ).toMatchSnapshot();
  });

  it('only ever gains fields in its answers', () => {
    const answers = Object.entries(document.paths).flatMap(([path, methods]) =>
      Object.entries(methods).flatMap(([method, operation]) => {
        const [done] = Object.entries(operation.responses).filter(([status]) => status !== 'default');
        return paths(done?.[1].content?.['application/json']?.schema, `${method} ${path}`);
      }),
    );
    expect(answers.length).toBeGreaterThan(100);
    expect(answers).toMatchSnapshot();
  });
});
