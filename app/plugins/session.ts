/** Who is signed in must be known before the first place is decided on. */
export default defineNuxtPlugin(async () => {
  await useSession().load();
});
