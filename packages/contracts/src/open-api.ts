/** A JSON Schema, as far as the routes here make use of it. */
export interface OpenApiSchema {
  readonly type?: string | readonly string[];
  readonly description?: string;
  readonly properties?: Readonly<Record<string, OpenApiSchema>>;
  readonly items?: OpenApiSchema;
  readonly required?: readonly string[];
  readonly enum?: readonly (string | number | boolean | null)[];
  readonly const?: string | number | boolean;
  readonly anyOf?: readonly OpenApiSchema[];
}
export type OpenApiContent = Readonly<Record<string, { readonly schema: OpenApiSchema }>>;
export interface OpenApiParameter {
  readonly name: string;
  readonly in: 'path' | 'query';
  readonly description?: string;
  readonly required: boolean;
  readonly schema: OpenApiSchema;
}
export interface OpenApiOperation {
  readonly summary: string;
  readonly security: readonly Readonly<Record<string, readonly string[]>>[];
  readonly parameters?: readonly OpenApiParameter[];
  readonly requestBody?: { readonly required: boolean; readonly content: OpenApiContent };
  readonly responses: Readonly<Record<string, { readonly description: string; readonly content?: OpenApiContent }>>;
}
/** An OpenAPI 3.1 document, as far as the routes here make use of it. */
export interface OpenApi {
  readonly openapi: string;
  readonly info: { readonly title: string; readonly version: string; readonly description?: string };
  readonly servers: readonly { readonly url: string }[];
  readonly paths: Readonly<Record<string, Readonly<Record<string, OpenApiOperation>>>>;
  readonly components: object;
}
