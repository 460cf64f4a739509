<script setup lang="ts">
import { useQuery } from '@pinia/colada';
import type { AccountLine } from '~~/core/contract/people.ts';

/* People and their accounts. */
useHead({ title: 'People · Brisk Acorn' });
const session = useSession();
const toast = useToast();
const confirm = useConfirm();
const asked = useQuery({ key: ['accounts'], query: () => api.people.list() });
const editing = shallowRef<AccountLine | 'new' | null>(null);
const link = shallowRef<{ name: string; link: { path: string; until: number } } | null>(null);
const { sought, isMany, found, paging } = useFinding(
  () => asked.data.value,
  (a) => [a.name, a.email, a.team],
);
async function done(): Promise<void> {
  editing.value = null;
  await asked.refetch();
}
async function added(name: string, made: { path: string; until: number }): Promise<void> {
  await done();
  link.value = { name, link: made };
}
async function change(a: AccountLine): Promise<void> {
  await done();
  // what one may oneself is read anew
  if (a.id === session.account?.id) await session.load();
}
async function newLink(a: AccountLine): Promise<void> {
  try {
    link.value = { name: a.name, link: await api.people.link({ id: a.id }) };
    await asked.refetch();
  } catch (e) {
    toast.add({ severity: 'error', summary: 'No link', detail: messageOf(e), life: 8000 });
  }
}
function remove(event: Event, a: AccountLine): void {
  confirm.require({
    target: event.currentTarget as HTMLElement,
    message: `The account of ${a.name} is removed; the person stays in People.`,
    acceptLabel: 'Remove',
    rejectLabel: 'Keep',
    accept: () => {
      api.people
        .remove({ id: a.id })
        .then(() => asked.refetch())
        .catch((e: unknown) => toast.add({ severity: 'error', summary: 'Not removed', detail: messageOf(e), life: 8000 }));
    },
  });
}
function standing(a: AccountLine): string {
  if (!a.active) return 'out of use';
  if (a.linkUntil !== null) return a.hasPassword ? 'has a link for a new password' : 'invited, link not used yet';
  return a.hasPassword ? '' : 'no password and no open link';
}
</script>

<template>
  <div>
    <PlaceTrail :above="[]" here="People" />
    <header class="row spread">
      <div>
        <h1>People</h1>
        <p class="muted">Who may sign in, and as what. Rights with a form are said in its settings.</p>
      </div>
      <Button icon="pi pi-user-plus" label="Invite somebody" @click="editing = 'new'" />
    </header>
    <Asked v-slot="{ data }" :query="asked">
      <FindField v-if="isMany" v-model="sought" label="Find somebody" />
      <DataTable
        :value="found"
        data-key="id"
        row-hover
        sort-field="name"
        :sort-order="1"
        v-bind="paging"
        :table-props="{ 'aria-label': 'Accounts' }"
      >
        <template #empty>Nobody here is called so, has such an address, or is of such a team.</template>
        <Column header="Name" field="name" sortable
          ><template #body="{ data: a }"
            ><Button link class="name" :label="a.name" @click="editing = a" /><span v-if="a.id === session.account?.id" class="muted">
              (you)</span
            ></template
          ></Column
        >
        <Column header="E-mail" field="email" sortable />
        <Column header="Team" field="team" sortable />
        <Column header="Roles"
          ><template #body="{ data: a }">{{ a.roles.join(', ') }}</template></Column
        >
        <Column header="Standing"
          ><template #body="{ data: a }"
            ><span :class="{ muted: a.active }">{{ standing(a) }}</span></template
          ></Column
        >
        <Column>
          <template #header><span class="sr">Actions</span></template>
          <template #body="{ data: a }">
            <div class="row end">
              <Button
                v-if="a.active"
                link
                severity="secondary"
                :label="a.hasPassword ? 'New password' : 'New link'"
                :aria-label="`A new link for ${a.name}`"
                @click="newLink(a)"
              />
              <IconButton icon="pi pi-trash" :aria-label="`Remove the account of ${a.name}`" @click="remove($event, a)" />
            </div>
          </template>
        </Column>
      </DataTable>
      <PersonDialog v-if="editing === 'new'" :account="null" :accounts="data" @close="editing = null" @added="added" />
      <PersonDialog
        v-else-if="editing"
        :key="editing.id"
        :account="editing"
        :accounts="data"
        @close="editing = null"
        @changed="change(editing)"
      />
    </Asked>
    <LinkDialog :link="link?.link ?? null" :name="link?.name ?? ''" @close="link = null" />
  </div>
</template>

<style scoped>
.end {
  justify-content: flex-end;
}
.name {
  font-weight: 700;
}
</style>
