<script setup lang="ts">
import type { AccountLine } from '~~/core/contract/people.ts';
import { ROLES, type Role } from '~~/core/values/roles.ts';

/* Somebody is invited, or their account changed: who, which team, which roles. */
const props = defineProps<{ account: AccountLine | null; accounts: readonly AccountLine[] }>();
const emit = defineEmits<{ close: []; added: [name: string, link: { path: string; until: number }]; changed: [] }>();
const MEANS: Readonly<Record<Role, string>> = {
  clerk: 'enters records',
  reviewer: 'enters records; forms can let reviewers see and move more',
  designer: 'builds tables and forms, sees every record',
  administrator: 'keeps people, rights and settings; builds too',
};
const { account } = props;
const form = reactive({
  name: account?.name ?? '',
  email: account?.email ?? '',
  team: account?.team ?? '',
  roles: [...(account?.roles ?? ['clerk'])] as Role[],
  active: account?.active ?? true,
});
/** the row of People that is meant, where somebody stands there without an account */
const person = ref<number | null>(null);
const people = shallowRef<readonly { id: number; name: string; email: string; team: string }[]>([]);
onMounted(async () => {
  if (account) return;
  const answer = await api.tables.rows({ key: 'people' }, { limit: 500 }).catch(() => null);
  const taken = new Set(props.accounts.map((a) => a.person));
  people.value = (answer?.rows ?? [])
    .filter((r) => !taken.has(r.row.id))
    .map(({ row }) => ({ id: row.id, name: String(row.name ?? ''), email: String(row.email ?? ''), team: String(row.team ?? '') }));
});
const known = computed(() => [{ value: null as number | null, label: 'somebody new' }, ...people.value.map((p) => ({ value: p.id as number | null, label: p.name }))]); // prettier-ignore
function choose(id: number | null): void {
  person.value = id;
  const found = people.value.find((p) => p.id === id);
  if (found) Object.assign(form, { name: found.name, email: found.email, team: found.team });
}
const teams = computed(() => [...new Set([...props.accounts.map((a) => a.team ?? ''), ...people.value.map((p) => p.team)].filter(Boolean))].sort()); // prettier-ignore
const offered = ref<string[]>([]);
const problem = ref('');
const busy = ref(false);
async function send(): Promise<void> {
  busy.value = true;
  problem.value = '';
  try {
    const { name, email, team, roles, active } = form;
    if (account) {
      await api.people.change({ id: account.id }, { roles, team: team || null, email, active });
      emit('changed');
    } else {
      const added = await api.people.add({ person: person.value, name, email, team: team || null, roles });
      emit('added', added.account.name, added.link);
    }
  } catch (e) {
    problem.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <StayDialog
    visible
    modal
    :header="account ? account.name : 'Invite somebody'"
    :style="{ width: '520px' }"
    @update:visible="emit('close')"
  >
    <form id="person" class="fields" @submit.prevent="send">
      <p v-if="!account && people.length">
        This is <PickWord :value="person" :options="known" label="Person" @pick="choose" />{{
          person === null ? '' : ', who stands in People already'
        }}.
      </p>
      <label v-if="!account"
        ><span class="label">Name</span><InputText v-model="form.name" autofocus required maxlength="200" :readonly="person !== null"
      /></label>
      <label><span class="label">E-mail</span><InputText v-model="form.email" type="email" required maxlength="200" /></label>
      <label for="person-team"
        ><span class="label">Team</span
        ><StayAutoComplete
          v-model="form.team"
          input-id="person-team"
          :suggestions="offered"
          dropdown
          maxlength="200"
          placeholder="none"
          @complete="offered = teams.filter((x) => x.toLowerCase().includes($event.query.toLowerCase()))"
      /></label>
      <div class="group" role="group" aria-labelledby="roles-word">
        <span id="roles-word" class="label">Roles</span>
        <label v-for="r in ROLES" :key="r" class="role"
          ><Checkbox v-model="form.roles" :value="r" :input-id="`role-${r}`" name="roles" /> <b>{{ r }}</b>
          <span class="muted">{{ MEANS[r] }}</span></label
        >
      </div>
      <label v-if="account" class="role"
        ><ToggleSwitch v-model="form.active" input-id="person-active" /> <b>in use</b>
        <span class="muted">{{ form.active ? 'may sign in' : 'signs in no more; what was entered stays under the name' }}</span></label
      >
      <Note v-if="problem" kind="bad">{{ problem }}</Note>
    </form>
    <template #footer>
      <Button text severity="secondary" label="Cancel" @click="emit('close')" />
      <Button type="submit" form="person" :disabled="busy || !form.roles.length" :label="account ? 'Save' : 'Make the link'" />
    </template>
  </StayDialog>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 12px;
}
.group {
  display: grid;
  gap: 4px;
}
.role {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
