<script setup lang="ts">
import { ROLES } from '~~/core/values/roles.ts';
import { ROLE_WORDS, type Who } from '~~/core/form/who.ts';

/* Some people, by role or by team: each can be taken out, and more put in. Nobody named is everybody. */
const props = withDefaults(defineProps<{ who: Who; label: string; none?: string }>(), { none: 'everybody' });
const emit = defineEmits<{ change: [who: Who] }>();
const tryout = useTryout();
const teams = computed(() => {
  void tryout.host.steps.value;
  const all = (tryout.host.cache().table('people')?.rows ?? []).map((r) => String(r.team ?? '').trim()).filter(Boolean);
  return [...new Set(all)].sort((a, b) => a.localeCompare(b));
});
const chosen = computed(() => [
  ...props.who.roles.map((r) => ({ label: ROLE_WORDS[r], drop: () => emit('change', { ...props.who, roles: props.who.roles.filter((x) => x !== r) }) })),
  ...props.who.teams.map((t) => ({ label: `the team ${t}`, drop: () => emit('change', { ...props.who, teams: props.who.teams.filter((x) => x !== t) }) })),
]); // prettier-ignore
const TEAM = 'team ';
const options = computed(() => [
  ...ROLES.filter((r) => !props.who.roles.includes(r)).map((value) => ({ value: value as string, label: ROLE_WORDS[value] })),
  ...teams.value
    .filter((t) => !props.who.teams.some((x) => x.toLowerCase() === t.toLowerCase()))
    .map((t) => ({ value: `${TEAM}${t}`, label: `the team ${t}` })),
]);
function add(value: string): void {
  if (value.startsWith(TEAM)) emit('change', { ...props.who, teams: [...props.who.teams, value.slice(TEAM.length)] });
  else emit('change', { ...props.who, roles: [...props.who.roles, ...ROLES.filter((r) => r === value)] });
}
</script>

<template>
  <span
    ><template v-for="(c, i) in chosen" :key="c.label"
      ><template v-if="i"> or </template><b>{{ c.label }}</b
      ><IconButton icon="pi pi-times" :aria-label="`Without ${c.label}`" @click="c.drop()" /></template
    ><PickWord :value="''" :text="chosen.length ? ' or…' : none" :options="options" :label="label" @pick="add"
  /></span>
</template>
