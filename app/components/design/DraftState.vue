<script setup lang="ts">
import type { FormSummary } from '~/stores/model';

/* How a form's draft stands: broken, in the way of publishing, not published, or published. */
defineProps<{ form: FormSummary; why?: boolean }>();
</script>

<template>
  <span class="row state">
    <template v-if="form.broken"
      ><Tag severity="danger" value="broken" /><span v-if="why" class="bad"
        >{{ form.broken }}{{ form.version ? ' The published version stays in use.' : '' }}</span
      ></template
    >
    <Tag
      v-if="form.problems.errors"
      severity="danger"
      :value="`${form.problems.errors} ${form.problems.errors === 1 ? 'problem' : 'problems'}`"
    />
    <Tag v-if="form.changes.length" severity="warn" :value="form.version ? `${form.changes.length} not published` : 'never published'" />
    <span v-else-if="form.version && !form.problems.errors" class="muted">published</span>
  </span>
</template>

<style scoped>
.state {
  flex-wrap: wrap;
}
</style>
