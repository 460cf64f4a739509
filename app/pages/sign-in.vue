<script setup lang="ts">
const session = useSession();
const route = useRoute();
const email = ref('');
const password = ref('');
const problem = ref('');
const busy = ref(false);
useHead({ title: 'Sign in · Brisk Acorn' });

async function go(by: { email: string; password: string } | { demo: number }): Promise<void> {
  busy.value = true;
  problem.value = '';
  try {
    await session.signIn(by);
    const to = String(route.query.to ?? '/');
    await navigateTo(to.startsWith('/') && !to.startsWith('//') ? to : '/');
  } catch (e) {
    problem.value = messageOf(e);
  } finally {
    busy.value = false;
  }
}
const DOES: Readonly<Record<string, string>> = {
  designer: 'builds the forms',
  clerk: 'enters records',
  reviewer: 'checks in the lab',
  administrator: 'does everything',
};
</script>

<template>
  <div class="door">
    <section class="pitch">
      <img src="/acorn.svg" alt="" width="56" height="56" />
      <h1>Brisk Acorn</h1>
      <p>Forms that fill themselves in: lists narrow, values fill in, and everything says why.</p>
    </section>
    <section class="panel" aria-labelledby="sign-in">
      <h2 id="sign-in">Sign in</h2>
      <form class="fields" @submit.prevent="go({ email, password })">
        <label><span class="label">E-mail</span><InputText v-model="email" type="email" autocomplete="username" required /></label>
        <label
          ><span class="label">Password</span><InputText v-model="password" type="password" autocomplete="current-password" required
        /></label>
        <Note v-if="problem" kind="bad">{{ problem }}</Note>
        <Button type="submit" :disabled="busy">Sign in</Button>
      </form>
      <template v-if="session.demo.length">
        <h2>Or sign in as one of the seed bank’s people</h2>
        <p class="muted">This is the demo: one press signs you in.</p>
        <ul class="people">
          <li v-for="p in session.demo" :key="p.id">
            <Button severity="secondary" :disabled="busy" @click="go({ demo: p.id })">
              <b>{{ p.name }}</b><span class="muted">{{ p.roles.join(', ') }}, {{ DOES[p.roles[0] ?? ''] }}</span>
            </Button>
          </li>
        </ul>
      </template>
    </section>
  </div>
</template>

<style scoped>
.door {
  min-height: 100vh;
  display: grid;
  grid-template-columns: 1fr minmax(380px, 1fr);
}
.pitch {
  background: var(--act-wash);
  display: flex;
  flex-direction: column;
  justify-content: center;
  padding: 48px;
  gap: 10px;
}
.pitch h1 {
  font-size: 34px;
}
.pitch p {
  font-size: 18px;
  max-width: 26em;
}
.panel {
  padding: 48px;
  display: flex;
  flex-direction: column;
  justify-content: center;
  gap: 10px;
  max-width: 520px;
}
.panel h2 + .muted {
  margin-top: -6px;
}
.fields {
  display: grid;
  gap: 12px;
  margin-bottom: 24px;
}
.fields .p-button {
  justify-self: start;
}
.people {
  display: grid;
  gap: 6px;
}
.people .p-button {
  width: 100%;
  font-weight: 400;
  justify-content: space-between;
}
@media (max-width: 760px) {
  .door {
    grid-template-columns: 1fr;
  }
  .pitch,
  .panel {
    padding: 24px;
  }
  .pitch p {
    display: none;
  }
}
</style>
