<script setup lang="ts">
/*
 * Something to know: a note, what went wrong (told to screen readers at once) or what went well. With `retry`, a press that tries
 * it again stands behind the words.
 */
const { kind = 'note', retry } = defineProps<{ kind?: 'note' | 'bad' | 'good' | 'quiet'; retry?: () => unknown }>();
const SEVERITY = { note: 'warn', bad: 'error', good: 'success', quiet: 'secondary' } as const;
const ROLE = { note: { role: 'note', live: 'off' }, bad: { role: 'alert', live: 'assertive' }, good: { role: 'status', live: 'polite' }, quiet: { role: 'note', live: 'off' } } as const; // prettier-ignore
</script>

<template>
  <Message :severity="SEVERITY[kind]" :pt="{ root: { role: ROLE[kind].role, 'aria-live': ROLE[kind].live } }"
    ><slot /><template v-if="retry"> <Button link label="Try again" @click="retry()" /></template
  ></Message>
</template>
