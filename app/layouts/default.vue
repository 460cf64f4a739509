<script setup lang="ts">
const route = useRoute();
const session = useSession();
const work = useWork();
const workspace = useWorkspaceSettings();
/** work that goes on although its screen was left */
const elsewhere = computed(() => work.running.filter((w) => w.place.split('?')[0] !== route.path));
const { scheme, toggle } = useScheme();

interface Place {
  readonly to: string;
  readonly word: string;
  readonly icon: string;
  readonly builds: boolean;
  readonly administers?: boolean;
}
const PLACES: readonly Place[] = [
  { to: '/', word: 'Home', icon: 'pi-home', builds: false },
  { to: '/design/tables', word: 'Tables', icon: 'pi-table', builds: true },
  { to: '/design/lists', word: 'Lists', icon: 'pi-list', builds: true },
  { to: '/design/feeds', word: 'Feeds', icon: 'pi-cloud', builds: true },
  { to: '/design/forms', word: 'Forms', icon: 'pi-pen-to-square', builds: true },
  { to: '/entry', word: 'Entries', icon: 'pi-inbox', builds: false },
  { to: '/guide', word: 'Guide', icon: 'pi-book', builds: false },
  { to: '/admin', word: 'People', icon: 'pi-users', builds: false, administers: true },
];
const places = computed(() => PLACES.filter((p) => (!p.builds || session.builds) && (!p.administers || session.administers)));
const isHere = (to: string): boolean => (to === '/' ? route.path === '/' : route.path.startsWith(to));
</script>

<template>
  <div class="shell" :class="{ bare: !session.account }">
    <a class="skip" href="#main">Skip to the content</a>
    <ScreenKeys v-if="session.account" :key="session.account.id" />
    <header v-if="session.account" class="bar">
      <NuxtLink to="/" class="brand" aria-label="Brisk Acorn, home"
        ><img src="/acorn.svg" alt="" width="24" height="24" /> <b>{{ workspace.name }}</b></NuxtLink
      >
      <div id="bar-place" class="place" />
      <div id="bar-end" class="end" />
      <NuxtLink v-for="w in elsewhere" :key="w.id" :to="w.place" role="status"
        >{{ w.words }}: {{ Math.round(w.progress * 100) }} %</NuxtLink
      >
      <div class="me">
        <IconButton
          :icon="scheme === 'dark' ? 'pi pi-sun' : 'pi pi-moon'"
          :aria-label="scheme === 'dark' ? 'Switch to light' : 'Switch to dark'"
          @click="toggle"
        />
        <span class="who"
          ><b>{{ session.account.name }}</b> <span class="muted">{{ session.account.roles.join(', ') }}</span></span
        >
        <Button text severity="secondary" size="small" @click="session.signOut()">Sign out</Button>
      </div>
    </header>
    <nav v-if="session.account" class="side" aria-label="Places">
      <NuxtLink
        v-for="p in places"
        :key="p.to"
        :to="p.to"
        :class="{ here: isHere(p.to) }"
        :aria-current="isHere(p.to) ? 'page' : undefined"
      >
        <i class="pi" :class="p.icon" aria-hidden="true" /><span>{{ p.word }}</span>
      </NuxtLink>
    </nav>
    <main id="main" tabindex="-1"><slot /></main>
  </div>
</template>

<style scoped>
.shell {
  height: 100%;
  display: grid;
  grid-template: 44px minmax(0, 1fr) / 60px minmax(0, 1fr);
  grid-template-areas: 'bar bar' 'side main';
}
.shell.bare {
  display: block;
}
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 8px;
  top: 8px;
  z-index: 10;
  background: var(--ground);
  padding: 6px 10px;
}
.bar {
  grid-area: bar;
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 0 14px;
  border-bottom: 1px solid var(--line);
  background: var(--ground);
  white-space: nowrap;
}
.brand {
  display: flex;
  align-items: center;
  gap: 10px;
  color: var(--ink);
  text-decoration: none;
}
.place {
  display: flex;
  align-items: center;
  gap: 10px;
  min-width: 0;
  overflow: hidden;
}
.end {
  margin-left: auto;
  display: flex;
  align-items: center;
  gap: 8px;
}
.me {
  display: flex;
  align-items: center;
  gap: 6px;
}
.side {
  grid-area: side;
  border-right: 1px solid var(--line);
  background: var(--ground-2);
  display: flex;
  flex-direction: column;
  padding-top: 4px;
}
.side a {
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 2px;
  padding: 8px 0 7px;
  font-size: 11px;
  color: var(--ink-2);
  text-decoration: none;
  border-left: 3px solid transparent;
  border-right: 3px solid transparent;
}
.side a i {
  font-size: 17px;
}
.side a:hover {
  color: var(--ink);
}
.side a.here {
  background: var(--act-wash);
  color: var(--act);
  font-weight: 700;
  border-left-color: var(--act);
}
main {
  grid-area: main;
  /* what is hidden from the eye only scrolls with it, and makes no page longer than the screen */
  position: relative;
  min-width: 0;
  overflow: auto;
  outline: none;
}
@media (max-width: 1180px) {
  .brand b {
    display: none;
  }
}
@media (max-width: 900px) {
  .who span {
    display: none;
  }
}
@media (max-width: 640px) {
  .shell {
    grid-template: 44px minmax(0, 1fr) 52px / minmax(0, 1fr);
    grid-template-areas: 'bar' 'main' 'side';
  }
  .side {
    flex-direction: row;
    justify-content: space-around;
    border-right: 0;
    border-top: 1px solid var(--line);
    padding: 0;
  }
  .side a {
    border: 0;
    padding: 6px 10px;
  }
  .brand b,
  .who {
    display: none;
  }
}
</style>
