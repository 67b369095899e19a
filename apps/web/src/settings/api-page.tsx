import { Link } from 'react-router';
import { type OpenApi, type OpenApiSchema } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { Page } from '../ui/page';
import { Loading, Wrong } from '../ui/states';

const DEEPEST = 5;

/** The public API as a page: every call with its scope, what it takes and what it answers, made from the document that programs read. */
export default function ApiPage() {
  const { data, error, refetch } = api.useOpenApiQuery();
  if (error) return <Wrong error={error} again={() => void refetch()} />;
  if (!data) return <Loading />;
  const calls = Object.entries(data.paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => ({ path, method, operation })),
  );
  return (
    <Page
      title="The API"
      sentence={`${calls.length} calls under /api/v1, with a key. ${data.info.description ?? ''}`}
      actions={
        <>
          <Link className="btn btn-sm btn-outline btn-primary" to="/settings/keys">
            Keys
          </Link>
          <a className="btn btn-sm btn-outline btn-primary" href="/api/v1/openapi.json">
            As a document
          </a>
        </>
      }
    >
      <ul className="panel divide-base-300/60 divide-y">
        {calls.map(({ path, method, operation }) => (
          <li key={`${method} ${path}`}>
            <Call path={path} method={method} operation={operation} />
          </li>
        ))}
      </ul>
    </Page>
  );
}

type Operation = OpenApi['paths'][string][string];

function Call({ path, method, operation }: { path: string; method: string; operation: Operation }) {
  const scope = operation.security.flatMap((each) => Object.values(each).flat())[0];
  const body = Object.entries(operation.requestBody?.content ?? {});
  const [status, answer] = Object.entries(operation.responses).find(([key]) => key !== 'default') ?? [];
  const answered = answer?.content?.['application/json']?.schema;
  return (
    <details className="px-4 py-2">
      <summary className="cursor-pointer">
        <span className="mr-2 inline-block w-16 font-mono text-[12px] font-semibold uppercase">{method}</span>
        <span className="font-mono">{path}</span>
        <span className="quiet ml-3">{operation.summary}</span>
      </summary>
      <div className="mt-2 mb-1 ml-18 flex flex-col gap-2 text-[13px]">
        <p>
          <span className="quiet">needs</span> {scope ?? 'any key'}
        </p>
        {(operation.parameters ?? []).map((parameter) => (
          <p key={parameter.name}>
            <span className="font-mono">{parameter.name}</span>{' '}
            <span className="quiet">
              in the {parameter.in}
              {parameter.description && `: ${parameter.description}`}
            </span>
          </p>
        ))}
        {body.map(([type, { schema }]) => (
          <div key={type}>
            <span className="quiet">takes {type}</span>
            <Schema schema={schema} depth={0} />
          </div>
        ))}
        <div>
          <span className="quiet">answers {status}</span>
          {answered ? <Schema schema={answered} depth={0} /> : <p>nothing</p>}
        </div>
      </div>
    </details>
  );
}

/** The properties of a schema, each with its type and what it is, those inside it indented. */
function Schema({ schema, depth }: { schema: OpenApiSchema; depth: number }) {
  const inner = schema.items ?? schema;
  const properties = Object.entries(inner.properties ?? {});
  if (properties.length === 0 || depth > DEEPEST) return null;
  return (
    <ul className="border-base-300 ml-1 border-l pl-3">
      {properties.map(([name, property]) => (
        <li key={name}>
          <span className="font-mono">{name}</span>{' '}
          <span className="quiet">
            {typeOf(property)}
            {inner.required?.includes(name) ? '' : ', may be left out'}
            {property.description && `: ${property.description}`}
          </span>
          <Schema schema={property} depth={depth + 1} />
        </li>
      ))}
    </ul>
  );
}

function typeOf(schema: OpenApiSchema): string {
  if (schema.enum) return schema.enum.map(String).join(' | ');
  if (schema.const !== undefined) return String(schema.const);
  if (schema.anyOf) return [...new Set(schema.anyOf.map(typeOf))].join(' | ');
  if (schema.items) return `list of ${typeOf(schema.items)}`;
  return typeof schema.type === 'string' ? schema.type : (schema.type?.join(' | ') ?? 'anything');
}
