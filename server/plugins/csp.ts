import { createHash } from 'node:crypto';

/**
 * A strict content policy for every page: scripts from here only, the few inline ones of the page shell by their hash.
 * Styles may be inline, because the component library and the formula editor write theirs at run time.
 */
export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('render:response', (response) => {
    const body = typeof response.body === 'string' ? response.body : '';
    const hashes = [...body.matchAll(/<script(?![^>]*\ssrc=)[^>]*>([^]*?)<\/script>/g)].map(
      ([, text]) =>
        `'sha256-${createHash('sha256')
          .update(text ?? '')
          .digest('base64')}'`,
    );
    const policy = [
      "default-src 'none'",
      `script-src 'self' ${hashes.join(' ')}`.trim(),
      "style-src 'self' 'unsafe-inline'",
      "img-src 'self' data:",
      // the calendar’s few signs are a font that stands in its own style
      "font-src 'self' data:",
      "connect-src 'self'",
      "worker-src 'self'",
      "manifest-src 'self'",
      "base-uri 'none'",
      "form-action 'self'",
      "frame-ancestors 'none'",
    ];
    response.headers = { ...response.headers, 'content-security-policy': policy.join('; ') };
  });
});
