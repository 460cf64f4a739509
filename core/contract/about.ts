import { z } from 'zod';
import { define } from './define.ts';
import { done } from './values.ts';

/* What is told about the server itself, to anybody: nothing of what is kept in it. */

const described = z.record(z.string(), z.unknown());

export const about = {
  health: define({ method: 'GET', path: 'health', may: 'anybody', about: 'Whether the server can do its work, database and disk included; 503 with a sentence when it cannot.', answer: done }),
  openApi: define({ method: 'GET', path: 'openapi.json', may: 'anybody', about: 'This description (OpenAPI 3.1).', answer: described }),
  formSchema: define({ method: 'GET', path: 'schemas/form.json', may: 'anybody', about: 'The JSON Schema of a form’s definition.', answer: described }),
}; // prettier-ignore
