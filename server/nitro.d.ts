/** What Nitro makes of the routes while it builds: read to tell which methods an address takes. */
declare module '#nitro-internal-virtual/server-handlers' {
  export const handlers: readonly { readonly route?: string; readonly method?: string }[];
}
