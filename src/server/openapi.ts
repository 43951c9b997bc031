import { z } from 'zod';
import type { ApiOptions } from './api';
import { PROBLEMS } from './problem';
import { routes, type Route } from './routes';

const problem = z.object({
  error: z.object({
    code: z.enum(Object.keys(PROBLEMS) as [string, ...string[]]),
    field: z.string().optional(),
    message: z.string()
  })
});
const health = z.object({
  ok: z.boolean(),
  requests: z.int(),
  working: z.int(),
  waiting: z.int()
});

const schemaOf = (schema: z.ZodType, io: 'input' | 'output' = 'output'): object => {
  const made = z.toJSONSchema(schema, { io }) as Record<string, unknown>;
  // It is part of a description that says its version itself.
  delete made['$schema'];
  return made;
};

const answered = (description: string, mimes: readonly string[], schema: object): object => ({
  description,
  content: Object.fromEntries(mimes.map((mime) => [mime, { schema }]))
});

/** What each status means. */
function problems(): Record<string, object> {
  const byStatus = new Map<number, string[]>();
  for (const [code, [status, title]] of Object.entries(PROBLEMS))
    byStatus.set(status, [...(byStatus.get(status) ?? []), `${code}: ${title}`]);
  const schema = { $ref: '#/components/schemas/Problem' };
  return Object.fromEntries(
    [...byStatus].map(([status, titles]) => [
      status,
      answered(titles.join(' '), ['application/json'], schema)
    ])
  );
}

function formOf({ fields, files }: Route, { limits }: Pick<ApiOptions, 'limits'>): object {
  const texts = schemaOf(fields, 'input') as { properties: Record<string, object>; required?: string[] };
  const file = { type: 'string', format: 'binary' };
  const sent = Object.entries(files).map(([name, { most, told }]) => {
    const maxItems = most(limits);
    const text = texts.properties[name];
    if (text) return [name, { anyOf: [text, { ...file, description: told }] }];
    return [
      name,
      maxItems === 1
        ? { ...file, description: told }
        : { type: 'array', items: file, maxItems, description: told }
    ];
  });
  return { ...texts, properties: { ...texts.properties, ...Object.fromEntries(sent) } };
}

/** Describes what can be asked for (OpenAPI 3.1), out of the schemas by which it is checked. */
export const openApi = (options: Pick<ApiOptions, 'limits' | 'token'>): object => ({
  openapi: '3.1.0',
  info: { title: 'Kromba', version: '1', description: 'Puts looks on pictures, bakes and measures.' },
  servers: [{ url: '/' }],
  ...(options.token !== undefined && { security: [{ token: [] }] }),
  components: {
    schemas: { Problem: schemaOf(problem) },
    ...(options.token !== undefined && { securitySchemes: { token: { type: 'http', scheme: 'bearer' } } })
  },
  paths: {
    ...Object.fromEntries(
      Object.entries(routes).map(([path, route]) => [
        path,
        {
          post: {
            operationId: path.slice('/api/'.length),
            summary: route.title,
            requestBody: {
              required: true,
              content: { 'multipart/form-data': { schema: formOf(route, options) } }
            },
            responses: { 200: answered('What was made.', route.answers, {}), ...problems() }
          }
        }
      ])
    ),
    '/api/health': {
      get: {
        operationId: 'health',
        summary: 'Whether the server takes requests, and how much there is to do.',
        security: [],
        responses: { 200: answered('How it is.', ['application/json'], schemaOf(health)) }
      }
    },
    '/api/openapi.json': {
      get: {
        operationId: 'openapi',
        summary: 'This description.',
        security: [],
        responses: { 200: answered('The description.', ['application/json'], { type: 'object' }) }
      }
    }
  }
});
