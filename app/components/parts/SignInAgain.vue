<script setup lang="ts">
/* The session ended while somebody works: they sign in over what they were at, and go on. */
const session = useSession();
const password = ref('');
const problem = ref('');
const busy = ref(false);
const own = computed(() => session.demo.find((p) => p.id === session.account?.id));
watch(() => session.ended, () => (password.value = problem.value = '')); // prettier-ignore
async function go(by: { email: string; password: string } | { demo: number }): Promise<void> {
  busy.value = true;
  problem.value = '';
  try {
    await session.resume(by);
  } catch (e) {
    problem.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <StayDialog
    :visible="session.ended"
    modal
    :closable="false"
    :close-on-escape="false"
    header="Sign in to go on"
    :style="{ width: '400px' }"
  >
    <form class="fields" @submit.prevent="go({ email: session.account?.email ?? '', password })">
      <p>You have been signed out. What you typed is still here: sign in and go on.</p>
      <label
        ><span class="label">Password of {{ session.account?.name }}</span
        ><InputText v-model="password" type="password" autocomplete="current-password" autofocus required
      /></label>
      <Note v-if="problem" kind="bad">{{ problem }}</Note>
      <div class="row">
        <Button type="submit" :disabled="busy" label="Sign in" />
        <Button v-if="own" severity="secondary" :disabled="busy" :label="`Sign in as ${own.name}`" @click="go({ demo: own.id })" />
        <Button text severity="secondary" label="Sign in as somebody else" @click="session.leave()" />
      </div>
    </form>
  </StayDialog>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 12px;
}
.row {
  flex-wrap: wrap;
}
</style>
