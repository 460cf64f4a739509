<script setup lang="ts">
import { nearView, whenIdle } from '~/composables/nearView';

/*
 * Something that costs to draw, drawn once it comes near the screen: until then a place of its height stands for it, with what the
 * `still` slot says in plain text. Once drawn it stays. With `soon`, what is far off is drawn too, while the browser is idle;
 * with `idle`, what is near is drawn only then. Whoever must have it at once sends its place the event `reveal`.
 */
const {
  height,
  now = false,
  soon = false,
  idle = false,
} = defineProps<{
  height: number;
  now?: boolean;
  soon?: boolean;
  idle?: boolean;
}>();
const root = ref<HTMLElement>();
const near = ref(now);
const stops: (() => void)[] = [];
const stop = (): void => stops.splice(0).forEach((s) => s());
function reveal(): void {
  near.value = true;
  stop();
}
onMounted(() => {
  if (near.value || !root.value) return;
  if (!idle) stops.push(nearView(root.value, reveal));
  if (soon || idle) stops.push(whenIdle(reveal));
});
onBeforeUnmount(stop);
</script>

<template>
  <slot v-if="near" />
  <div v-else ref="root" class="away" data-away :style="{ minHeight: `${height}px` }" @reveal="reveal"><slot name="still" /></div>
</template>
