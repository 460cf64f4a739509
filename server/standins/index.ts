/*
 * Stand-ins for outside services, so that feeds can be built, shown and tested without a network: weather of a site on a
 * day, accepted names of a genus, the town of a postcode, what is known of an asset. Invented data, but always the same
 * for the same question. A feed reaches them by an address that begins with /standins/.
 */

export interface StandInAnswer {
  readonly status: number;
  readonly body: string;
}
export interface StandInBehaviour {
  /** milliseconds before it answers */
  delay: number;
  /** answers 503 to the next so many requests */
  failing: number;
}

/** How each stand-in behaves now; tests and the feeds screen change it. */
export const behaviour: Record<string, StandInBehaviour> = {
  weather: { delay: 0, failing: 0 },
  names: { delay: 0, failing: 0 },
  postcode: { delay: 0, failing: 0 },
  assets: { delay: 0, failing: 0 },
};

/** A whole number from text, the same for the same text. */
function numberOf(text: string): number {
  let h = 2166136261;
  for (const c of text) h = Math.imul(h ^ (c.codePointAt(0) ?? 0), 16777619) >>> 0;
  return h;
}
const ok = (value: unknown): StandInAnswer => ({ status: 200, body: JSON.stringify(value) });
const bad = (message: string): StandInAnswer => ({ status: 400, body: JSON.stringify({ error: message }) });

const SKIES = ['clear', 'fair', 'overcast', 'showers', 'rain', 'fog'];
function weather(query: URLSearchParams): StandInAnswer {
  const site = query.get('site')?.trim() ?? '';
  const day = query.get('day') ?? '';
  if (site === '' || !/^\d{4}-\d{2}-\d{2}$/.test(day)) return bad('site and day (YYYY-MM-DD) are needed');
  const n = numberOf(`${site.toLowerCase()} ${day}`);
  const season = Math.cos(((Number(day.slice(5, 7)) - 7) / 6) * Math.PI);
  const mean = 9 + 8 * season + (n % 60) / 10 - 3;
  const sky = SKIES[n % SKIES.length] as string;
  const rain = sky === 'rain' ? 4 + ((n >> 4) % 120) / 10 : sky === 'showers' ? ((n >> 4) % 40) / 10 : 0;
  const readings = { mean_c: Math.round(mean * 10) / 10, low_c: Math.round((mean - 4) * 10) / 10, rain_mm: rain, sky };
  return ok({ site, day, readings });
}

const AUTHORS = ['L.', 'Mill.', 'Ehrh.', 'Huds.', 'Roth', 'Willd.'];
const EPITHETS = ['alba', 'nigra', 'palustris', 'sylvatica', 'arvensis', 'vulgaris', 'maritima', 'pratensis'];
function names(query: URLSearchParams): StandInAnswer {
  const genus = query.get('genus')?.trim() ?? '';
  if (!/^[A-Z][a-z]+$/.test(genus)) return ok({ query: genus, matches: [] });
  const n = numberOf(genus);
  const count = 2 + (n % 5);
  const matches = Array.from({ length: count }, (_, i) => {
    const epithet = EPITHETS[(n + i * 3) % EPITHETS.length] as string;
    return {
      name: `${genus} ${epithet}`,
      author: AUTHORS[(n + i) % AUTHORS.length],
      year: 1753 + (((n >>> 3) + i * 17) % 110),
      status: i === count - 1 ? 'synonym' : 'accepted',
    };
  });
  return ok({ query: genus, matches });
}

const TOWNS = ['Marrow', 'Kelter', 'Little Fen', 'Oxwade', 'Thornley', 'Sallow', 'Reedham', 'Hythe End'];
const STREETS = ['Mill Lane', 'Causeway', 'Drove Road', 'Church Street', 'Quay', 'Fen Row'];
function postcode(query: URLSearchParams): StandInAnswer {
  const code = (query.get('code') ?? '').replace(/\s+/g, '').toUpperCase();
  if (!/^[A-Z]{2}\d{1,2}$/.test(code)) return { status: 404, body: JSON.stringify({ error: `no such code as ${code}` }) };
  const n = numberOf(code);
  const streets = Array.from({ length: 1 + (n % 4) }, (_, i) => STREETS[(n + i) % STREETS.length]);
  return ok({ code, town: TOWNS[n % TOWNS.length], streets });
}

function assets(query: URLSearchParams): StandInAnswer {
  const id = query.get('id')?.trim() ?? '';
  if (id === '') return bad('id is needed');
  const n = numberOf(id);
  const pairs: Record<string, string | number> = {
    'last serviced': `20${24 + (n % 2)}-0${1 + (n % 9)}-1${n % 9}`,
    'service interval, months': 6 + (n % 3) * 6,
    location: ['lab bench', 'dry room', 'field store', 'van'][n % 4] as string,
    calibrated: n % 3 === 0 ? 'no' : 'yes',
  };
  if (n % 2) pairs['battery, %'] = 20 + (n % 80);
  return ok({ id, attributes: Object.entries(pairs).map(([name, value]) => ({ name, value })) });
}

const SERVICES: Readonly<Record<string, (query: URLSearchParams) => StandInAnswer>> = { weather, names, postcode, assets };

/** Answers a request to a stand-in, after its delay. `address` is `/standins/<service>?…`. */
export async function standIn(address: string, signal: AbortSignal): Promise<StandInAnswer> {
  const url = new URL(address, 'http://standins.invalid');
  const name = /^\/standins\/([a-z]+)$/.exec(url.pathname)?.[1] ?? '';
  const service = SERVICES[name];
  if (!service) return { status: 404, body: JSON.stringify({ error: `there is no stand-in “${name}”` }) };
  const how = behaviour[name] as StandInBehaviour;
  if (how.delay > 0) {
    await new Promise<void>((resolve, reject) => {
      const timer = setTimeout(resolve, how.delay);
      signal.addEventListener('abort', () => {
        clearTimeout(timer);
        reject(signal.reason as Error);
      });
    });
  }
  if (how.failing > 0) {
    how.failing--;
    return { status: 503, body: JSON.stringify({ error: 'the service is having a rest' }) };
  }
  return service(url.searchParams);
}
