/* PrimeVue's own buses for what is said and asked; it ships no types for them. */
interface EventBus {
  on(event: string, handler: (said: unknown) => void): void;
  off(event: string, handler: (said: unknown) => void): void;
  emit(event: string, said?: unknown): void;
  clear(): void;
}
declare module 'primevue/toasteventbus' {
  const bus: EventBus;
  export default bus;
}
declare module 'primevue/confirmationeventbus' {
  const bus: EventBus;
  export default bus;
}
