/** Everything but signing in needs somebody signed in; the Design area needs somebody who builds. */
export default defineNuxtRouteMiddleware((to) => {
  const session = useSession();
  // a one-time link is for whoever holds it
  if (to.path.startsWith('/welcome/')) return undefined;
  if (to.path === '/sign-in') return session.account ? navigateTo('/') : undefined;
  if (!session.account) return navigateTo({ path: '/sign-in', query: to.path === '/' ? {} : { to: to.fullPath } });
  if (to.path.startsWith('/design') && !session.builds) return navigateTo({ path: '/', query: { not: 'design' } });
  if (to.path.startsWith('/admin') && !session.administers) return navigateTo({ path: '/', query: { not: 'admin' } });
  return undefined;
});
