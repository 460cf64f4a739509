/** Open windows hear of what is published. */
export default defineNuxtPlugin({
  name: 'news',
  dependsOn: ['pinia', 'queries'],
  setup: () => useNews().begin(),
});
