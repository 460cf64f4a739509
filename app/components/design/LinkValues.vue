<script setup lang="ts">
import { LINES_NOTE } from '~/composables/addressValues';

/* What a link fills in, given through the form's own controls: the form as somebody finds it who opens the link. */
const props = defineProps<{ url: Readonly<Record<string, string>> }>();
const emit = defineEmits<{ change: [url: Record<string, string>] }>();
const draft = useDraft();
const tryout = useTryout();
const host = useEntryHost((wants) =>
  api.entries.wants({ key: draft.formKey }, { version: 'draft', wants: [...wants], person: tryout.person || undefined }),
);
const notices = shallowRef<readonly string[]>([]);
/** values that are of no field, but that formulas read */
const names = computed(() => (draft.plan ? namesRead(draft.plan) : []));
const others = reactive<Record<string, string>>({});
const ready = ref(false);

async function given(): Promise<Record<string, string>> {
  const more = Object.fromEntries(Object.entries(others).filter(([, text]) => text.trim() !== ''));
  return { ...(await addressOfEntry(host)), ...more };
}
const tell = async (): Promise<void> => emit('change', await given());
/** What stands there now, with what was typed a moment ago: whoever takes it asks for it. */
defineExpose({ given });
onMounted(async () => {
  await draft.flush();
  const { plan } = draft;
  if (!plan) return;
  for (const name of names.value) others[name] = props.url[name] ?? '';
  const me = tryout.person;
  host.open(
    plan,
    { ...draft.context, me, roles: draft.rolesOf.get(me) ?? [], mode: 'new', parent: tryout.tried.parent, url: props.url },
    null,
  );
  notices.value = await takeAddressValues(host, props.url);
  ready.value = true;
  watch(host.steps, ([newest]) => newest?.change.what.kind === 'edit' && void tell());
  await tell();
});
watch(others, () => ready.value && void tell());
</script>

<template>
  <div class="values">
    <p class="muted">Fill in what the link shall fill in. {{ LINES_NOTE }}</p>
    <Note v-if="notices.length"
      ><ul>
        <li v-for="n in notices" :key="n">{{ n }}</li>
      </ul></Note
    >
    <div v-if="names.length" class="names" role="group" aria-label="Read by formulas">
      <template v-for="n in names" :key="n">
        <label :for="`url-${n}`" class="mono">{{ n }}</label>
        <InputText :id="`url-${n}`" v-model="others[n]" size="small" placeholder="not set" />
      </template>
    </div>
    <Skeleton v-if="!ready" height="8rem" />
    <FormBody v-else :host="host" prefix="link" />
  </div>
</template>

<style scoped>
.values {
  display: grid;
  gap: 8px;
  align-content: start;
  max-height: 60vh;
  overflow: auto;
}
.names {
  display: grid;
  grid-template-columns: auto minmax(0, 300px);
  align-items: center;
  gap: 4px 10px;
}
</style>
