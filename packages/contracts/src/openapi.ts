import { z } from 'zod';
import { type OpenApi, type OpenApiContent, type OpenApiOperation, type OpenApiParameter, type OpenApiSchema } from './open-api.ts';
import { itemSchemaOf } from './items.ts';
import { problemSchema } from './problems.ts';
import { capabilitiesOf, namesIn, type Route } from './route.ts';
import { PUBLIC_API, publicRoutes } from './routes/index.ts';

const schemaOf = (schema: z.ZodType): OpenApiSchema => {
  const { $schema: _dialect, ...rest } = z.toJSONSchema(schema, {
    io: 'input',
    unrepresentable: 'any',
    override: ({ zodSchema, jsonSchema }) => {
      const item = itemSchemaOf(zodSchema);
      if (item) Object.assign(jsonSchema, { items: schemaOf(item) });
    },
  });
  return rest as OpenApiSchema;
};
const contentOf = (types: readonly string[], schema: z.ZodType): OpenApiContent =>
  Object.fromEntries(types.map((type) => [type, { schema: schemaOf(schema) }]));

const parametersOf = ({ path, params, query }: Route): readonly OpenApiParameter[] => [
  ...namesIn(path).map((name) => ({
    name,
    in: 'path' as const,
    required: true,
    schema: params ? schemaOf(params.shape[name] as z.ZodType) : { type: 'string' },
  })),
  ...Object.entries((query?.shape ?? {}) as Readonly<Record<string, z.ZodType>>).map(([name, schema]) => ({
    name,
    in: 'query' as const,
    ...(schema.description ? { description: schema.description } : {}),
    required: !schema.safeParse(undefined).success,
    schema: schemaOf(schema),
  })),
];

function operationOf(route: Route): OpenApiOperation {
  const parameters = parametersOf(route);
  return {
    summary: route.does,
    security: [{ key: capabilitiesOf(route.requires) }],
    ...(parameters.length > 0 ? { parameters } : {}),
    ...(route.body ? { requestBody: { required: true, content: contentOf(route.takes ?? ['application/json'], route.body) } } : {}),
    responses: {
      [route.status ?? 200]: {
        description: 'Done',
        ...(route.answers ? { content: contentOf(['application/json'], route.answers) } : {}),
      },
      default: { description: 'A problem (RFC 9457)', content: contentOf(['application/problem+json'], problemSchema) },
    },
  };
}

/** The OpenAPI 3.1 document of the public API. */
export function openApiDocument(version: string): OpenApi {
  const paths: Record<string, Record<string, OpenApiOperation>> = {};
  for (const route of publicRoutes) (paths[route.path.slice(PUBLIC_API.length)] ??= {})[route.method.toLowerCase()] = operationOf(route);
  return {
    openapi: '3.1.0',
    info: { title: 'Eager Sieve', version, description: 'Within v1 fields are only added.' },
    servers: [{ url: PUBLIC_API }],
    paths,
    components: {
      securitySchemes: { key: { type: 'http', scheme: 'bearer', description: 'A key made in the settings or by `./sieve key create`.' } },
    },
  };
}
