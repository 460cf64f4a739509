/** Whether the server is up: for scripts that wait for it. */
export default defineEventHandler(() => ({ ok: true }));
