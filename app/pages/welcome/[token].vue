<script setup lang="ts">
/* A one-time link: whom it is for sets a password; the first administrator says who they are and what the workspace is called. */
const route = useRoute();
const token = String(route.params.token);
type Contract = typeof import('~~/core/contract/index.ts').contract;
useHead({ title: 'Welcome · Brisk Acorn' });
const holder = shallowRef<Answer<Contract['welcome']['read']> | null>(null);
const gone = ref('');
const problem = ref('');
const busy = ref(false);
const form = reactive({ workspace: '', name: '', email: '', password: '', again: '' });
const isFirst = computed(() => holder.value !== null && holder.value.email === null);
await api.welcome
  .read({ token })
  .then((h) => (holder.value = h))
  .catch((e: unknown) => (gone.value = messageOf(e)));
const differs = computed(() => form.again !== '' && form.again !== form.password);
async function send(): Promise<void> {
  if (form.again !== form.password) return void (problem.value = 'The two passwords differ.');
  busy.value = true;
  problem.value = '';
  try {
    const first = isFirst.value ? { name: form.name, email: form.email, workspace: form.workspace } : null;
    await api.welcome.use({ token }, { password: form.password, first });
    await useSession().load();
    await navigateTo('/');
  } catch (e) {
    problem.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <div class="page narrow">
    <img src="/acorn.svg" alt="" width="44" height="44" />
    <template v-if="gone">
      <h1>This link is no longer open</h1>
      <Note kind="bad">{{ gone }}</Note>
      <p><NuxtLink to="/sign-in">Sign in</NuxtLink></p>
    </template>
    <template v-else-if="holder">
      <h1>{{ isFirst ? 'A new workspace' : `Welcome to ${holder.workspace}, ${holder.name}` }}</h1>
      <p v-if="isFirst" class="muted">You are its first administrator: you invite the others, build forms, and say how it is called.</p>
      <p v-else class="muted">Set a password. You sign in with {{ holder.email }}.</p>
      <form class="fields" @submit.prevent="send">
        <template v-if="isFirst">
          <label
            ><span class="label">Name of the workspace</span><InputText v-model="form.workspace" required maxlength="120" autofocus
          /></label>
          <label><span class="label">Your name</span><InputText v-model="form.name" required maxlength="200" autocomplete="name" /></label>
          <label
            ><span class="label">Your e-mail</span><InputText v-model="form.email" type="email" required autocomplete="username"
          /></label>
        </template>
        <!-- for password managers: whose password it is -->
        <InputText
          v-else
          class="sr"
          :model-value="holder.email"
          type="email"
          autocomplete="username"
          readonly
          tabindex="-1"
          aria-hidden="true"
        />
        <label
          ><span class="label">Password, at least 10 characters</span
          ><InputText v-model="form.password" type="password" required minlength="10" maxlength="200" autocomplete="new-password"
        /></label>
        <label
          ><span class="label">The same again</span
          ><InputText v-model="form.again" type="password" required autocomplete="new-password" :invalid="differs"
        /></label>
        <Note v-if="problem" kind="bad">{{ problem }}</Note>
        <Button type="submit" :disabled="busy">{{ isFirst ? 'Begin' : 'Set the password and sign in' }}</Button>
      </form>
    </template>
  </div>
</template>

<style scoped>
.narrow {
  max-width: 520px;
  margin: 8vh auto;
  display: grid;
  gap: 10px;
}
.fields {
  display: grid;
  gap: 12px;
  margin-top: 8px;
}
.fields .p-button {
  justify-self: start;
}
</style>
