import { expect, test } from 'vitest';
import { PLAIN_VIEW } from '../../core/choices/views.ts';
import { viewSchema } from '../../core/choices/viewSchemas.ts';
import { workspaceSchema } from '../../core/contract/people.ts';
import { missingColumns } from '../../core/form/columns.ts';
import { fieldSchema } from '../../core/form/schemas.ts';
import { columnSchema } from '../../core/model/schemas.ts';
import { UNREAD } from './workspaceSettings';

/* What is written out because the browser reads no schema at entry is what the schema fills in. */
test('the workspace before it is read, the plain view and a missing column are as their schemas would have them', () => {
  expect(UNREAD).toEqual(workspaceSchema.parse({}));
  expect(PLAIN_VIEW).toEqual(viewSchema.parse({}));
  // the order of its parts counts too: views are compared as text
  expect(JSON.stringify(PLAIN_VIEW)).toBe(JSON.stringify(viewSchema.parse({})));
  const field = fieldSchema.parse({ label: 'Weight', type: 'number', column: 'weight', decimals: 2 });
  expect(missingColumns({ weight: field }, [])).toEqual([
    columnSchema.parse({ key: 'weight', label: 'Weight', type: 'number', decimals: 2 }),
  ]);
});
