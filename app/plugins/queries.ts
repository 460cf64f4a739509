import { PiniaColada } from '@pinia/colada';

/** What is fetched is kept by one layer: shown at once where it was seen before, and read again behind it. */
export default defineNuxtPlugin({
  name: 'queries',
  dependsOn: ['pinia'],
  setup({ vueApp }) {
    vueApp.use(PiniaColada, { queryOptions: { staleTime: 0, refetchOnWindowFocus: false, refetchOnReconnect: true } });
  },
});
