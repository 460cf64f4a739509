import { z } from 'zod';
import { formSchema } from '../form/schemas.ts';
import { type May, type RouteSpec, isRoute } from './define.ts';
import { contract } from './index.ts';

/* The contract for those who do not read TypeScript: an OpenAPI 3.1 description, and the JSON Schema of a form's definition. */

/** The version of the contract: its first number changes when something that was there is no more. */
const VERSION = '1.0.0';
type JsonSchema = Readonly<Record<string, unknown>>;
type Schemas = Record<string, JsonSchema>;
/**
 * What goes in is described as it is sent, what comes out as it is answered; a rule that JSON Schema cannot say is left out. Schemas
 * that refer to themselves go to `shared`, under the name given, and are referred to there.
 */
function described(schema: z.ZodType, io: 'input' | 'output', name: string, shared: Schemas): JsonSchema {
  const { $schema: _, $defs = {}, ...rest } = z.toJSONSchema(schema, { io, unrepresentable: 'any' }) as Record<string, unknown>;
  const moved = <T>(part: T): T => JSON.parse(JSON.stringify(part).replaceAll('"#/$defs/', `"#/components/schemas/${name}.`)) as T;
  for (const [key, part] of Object.entries($defs as Schemas)) shared[`${name}.${key}`] = moved(part);
  return moved(rest);
}
interface Named {
  readonly name: string;
  readonly route: RouteSpec;
}
/** Takes a contract or a noun of it (all of it when none is given); gives every route with the name the client calls it by, such as `forms.publish`. */
export function allRoutes(tree: object = contract, above: readonly string[] = []): Named[] {
  return Object.entries(tree).flatMap(([name, x]: [string, unknown]): Named[] => {
    const here = [...above, name];
    if (isRoute(x)) return [{ name: here.join('.'), route: x }];
    return typeof x === 'object' && x !== null ? allRoutes(x, here) : [];
  });
}
const WHO = (may: May): string =>
  may === 'anybody' ? 'Anybody may.' : may === 'signedIn' ? 'Everybody signed in may.' : may === 'design' ? 'Those who build may.' : `Only a ${may.join(' or ')} may.`; // prettier-ignore

function operation({ name, route }: Named, shared: Schemas): JsonSchema {
  const inPath = [...route.path.matchAll(/:([a-z]+)/gi)].map((m) => ({
    name: m[1],
    in: 'path',
    required: true,
    schema: { type: 'string' },
  }));
  const query = route.query
    ? (described(route.query, 'input', `${name}.query`, shared) as { properties?: Record<string, JsonSchema>; required?: string[] })
    : null;
  const anyNames = query && !query.properties ? [{ name: 'values', in: 'query', style: 'form', explode: true, schema: query }] : [];
  const inQuery = Object.entries(query?.properties ?? {}).map(([key, schema]) => ({ name: key, in: 'query', required: query?.required?.includes(key) ?? false, schema })); // prettier-ignore
  const json = (schema: JsonSchema) => ({ 'application/json': { schema } });
  const file = { 'application/octet-stream': { schema: { type: 'string', format: 'binary' } } };
  const [noun] = name.split('.');
  return {
    operationId: name,
    tags: [noun],
    summary: route.about,
    description: WHO(route.may),
    parameters: [...inPath, ...inQuery, ...anyNames],
    ...(route.body ? { requestBody: { required: true, content: json(described(route.body, 'input', `${name}.body`, shared)) } } : {}),
    ...(route.takesFile ? { requestBody: { required: true, content: file } } : {}),
    responses: {
      200: {
        description: route.result ? 'Work was begun; what it comes to is read at jobs/{id}.' : 'What was asked for.',
        content: route.answer ? json(described(route.answer, 'output', `${name}.answer`, shared)) : file,
      },
      default: { description: 'A refusal, with a code and a sentence.', content: json({ $ref: '#/components/schemas/Refusal' }) },
    },
    ...(route.result ? { 'x-result': described(route.result, 'output', `${name}.result`, shared) } : {}),
    ...(route.may === 'anybody' ? { security: [] } : {}),
  };
}

/** The OpenAPI 3.1 description of every route, as JSON, in steps of one route each. What a job comes to stands beside its route as `x-result`. */
export function* openApiInSteps(): Generator<void, JsonSchema> {
  const paths: Record<string, Record<string, JsonSchema>> = {};
  const shared: Schemas = {};
  for (const named of allRoutes()) {
    const path = `/api/${named.route.path.replace(/:([a-z]+)/gi, '{$1}')}`;
    (paths[path] ??= {})[named.route.method.toLowerCase()] = operation(named, shared);
    yield;
  }
  return {
    openapi: '3.1.0',
    info: { title: 'Brisk Acorn', version: VERSION, description: 'Forms whose fields fill in and narrow their choices by themselves.' },
    servers: [{ url: '/' }],
    security: [{ session: [] }],
    paths,
    components: {
      securitySchemes: { session: { type: 'apiKey', in: 'cookie', name: 'brisk_session' } },
      schemas: { ...shared, Refusal: { type: 'object', required: ['code', 'message'], properties: { code: { type: 'string' }, message: { type: 'string' } }, additionalProperties: true } },
    },
  }; // prettier-ignore
}

/** The JSON Schema (2020-12) of a form's definition, as it is kept and exchanged. */
export const formJsonSchema = (): JsonSchema => ({
  title: 'A form of Brisk Acorn',
  ...(z.toJSONSchema(formSchema, { io: 'input', unrepresentable: 'any' }) as Record<string, unknown>),
});
