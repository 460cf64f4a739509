// Writes the CSV files of the demo scenario, Marrow Fen Seed Bank: invented people and places, plain botany.
// The same every time (seeded). Run: node demo/generate.mjs
import { writeFileSync } from 'node:fs';

/** family: genus (English noun): epithets */
const FLORA = `
Apiaceae: Angelica (angelica): sylvestris; Oenanthe (dropwort): aquatica, fistulosa, lachenalii, crocata; Heracleum (hogweed): sphondylium; Pimpinella (burnet-saxifrage): major, saxifraga; Conium (hemlock): maculatum; Apium (marshwort): graveolens, inundatum, nodiflorum; Carum (caraway): carvi, verticillatum
Asteraceae: Cirsium (thistle): palustre, arvense, vulgare, dissectum, heterophyllum, acaule, eriophorum; Centaurea (knapweed): nigra, scabiosa, cyanus, calcitrapa; Achillea (yarrow): millefolium, ptarmica; Leucanthemum (oxeye): vulgare; Senecio (groundsel): aquaticus, vulgaris, jacobaea, erucifolius, sylvaticus; Hieracium (hawkweed): umbellatum, sabaudum, murorum; Tragopogon (salsify): pratensis, porrifolius; Bidens (bur-marigold): cernua, tripartita
Betulaceae: Betula (birch): pubescens, pendula, nana; Alnus (alder): glutinosa, incana, cordata; Carpinus (hornbeam): betulus
Brassicaceae: Cardamine (bittercress): pratensis, amara, hirsuta, flexuosa, bulbifera; Rorippa (yellow-cress): palustris, sylvestris, amphibia; Barbarea (winter-cress): vulgaris, stricta, verna; Nasturtium (watercress): officinale, microphyllum; Sinapis (mustard): arvensis, alba
Caryophyllaceae: Silene (campion): dioica, latifolia, vulgaris, uniflora, nutans, noctiflora; Stellaria (stitchwort): palustris, holostea, graminea, media, alsine, nemorum; Lychnis (catchfly): flos-cuculi, viscaria; Cerastium (mouse-ear): arvense, fontanum, glomeratum; Dianthus (pink): deltoides, armeria, gratianopolitanus; Saponaria (soapwort): officinalis
Cyperaceae: Carex (sedge): acuta, acutiformis, appropinquata, diandra, disticha, echinata, elata, elongata, flacca, hirta, lasiocarpa, limosa, nigra, otrubae, panicea, paniculata, pendula, pseudocyperus, pulicaris, riparia, rostrata, sylvatica, vesicaria; Cladium (saw-sedge): mariscus; Eriophorum (cottongrass): angustifolium, latifolium, vaginatum; Schoenus (bog-rush): nigricans; Eleocharis (spike-rush): palustris, multicaulis, quinqueflora, uniglumis
Ericaceae: Calluna (heather): vulgaris; Erica (heath): tetralix, cinerea, ciliaris, vagans; Vaccinium (bilberry): myrtillus, oxycoccos, vitis-idaea, uliginosum; Andromeda (bog-rosemary): polifolia
Fabaceae: Lotus (trefoil): corniculatus, pedunculatus, tenuis; Trifolium (clover): pratense, repens, fragiferum, arvense, medium, dubium, campestre; Vicia (vetch): cracca, sativa, sepium, sylvatica, orobus, tetrasperma; Lathyrus (vetchling): pratensis, palustris, sylvestris, linifolius, aphaca; Genista (greenweed): anglica, tinctoria, pilosa; Ulex (gorse): europaeus, gallii, minor
Fagaceae: Quercus (oak): robur, petraea, cerris, ilex, marrowii; Fagus (beech): sylvatica; Castanea (chestnut): sativa
Lamiaceae: Mentha (mint): aquatica, arvensis, pulegium, suaveolens; Stachys (woundwort): palustris, sylvatica, officinalis, arvensis, germanica; Scutellaria (skullcap): galericulata, minor; Lycopus (gypsywort): europaeus; Teucrium (germander): scordium, scorodonia; Prunella (selfheal): vulgaris, laciniata; Thymus (thyme): drucei, pulegioides, serpyllum; Ajuga (bugle): reptans, pyramidalis, chamaepitys
Orchidaceae: Dactylorhiza (marsh-orchid): praetermissa, incarnata, fuchsii, maculata, purpurella, traunsteinerioides; Epipactis (helleborine): palustris, helleborine, phyllanthes, purpurata; Liparis (fen-orchid): loeselii; Gymnadenia (fragrant-orchid): conopsea, densiflora, borealis
Poaceae: Molinia (moor-grass): caerulea; Phragmites (reed): australis; Briza (quaking-grass): media, minor; Alopecurus (foxtail): aequalis, geniculatus, pratensis, myosuroides; Festuca (fescue): rubra, ovina, arundinacea, filiformis; Glyceria (sweet-grass): fluitans, maxima, notata, declinata; Deschampsia (hair-grass): cespitosa, flexuosa, setacea; Calamagrostis (small-reed): canescens, epigejos, stricta, purpurea
Primulaceae: Primula (primrose): vulgaris, veris, elatior, farinosa, scotica; Lysimachia (loosestrife): vulgaris, nemorum, nummularia, thyrsiflora; Hottonia (water-violet): palustris; Samolus (brookweed): valerandi; Anagallis (pimpernel): arvensis, tenella, minima
Rosaceae: Filipendula (meadowsweet): ulmaria, vulgaris; Geum (avens): rivale, urbanum; Potentilla (cinquefoil): erecta, anserina, reptans, palustris, argentea, anglica, sterilis; Rosa (rose): canina, arvensis, rubiginosa, spinosissima, tomentosa, micrantha; Rubus (bramble): caesius, idaeus, chamaemorus, saxatilis; Sanguisorba (burnet): officinalis, minor; Crataegus (hawthorn): monogyna, laevigata; Prunus (cherry): avium, padus, spinosa; Sorbus (whitebeam): aucuparia, aria, torminalis
`;
const ADJECTIVES = {
  palustris: 'marsh', palustre: 'marsh', arvensis: 'field', arvense: 'field', vulgaris: 'common', vulgare: 'common', sylvatica: 'wood', sylvaticus: 'heath', sylvestris: 'wild', aquatica: 'water', aquaticus: 'water',
  officinalis: 'true', officinale: 'true', pratensis: 'meadow', pratense: 'meadow', nigra: 'black', alba: 'white', minor: 'lesser', major: 'greater', repens: 'creeping', reptans: 'creeping', maculata: 'spotted', maculatum: 'spotted',
  marrowii: 'fen', robur: 'pedunculate', petraea: 'sessile', pubescens: 'downy', pendula: 'drooping', glutinosa: 'sticky', rubra: 'red', media: 'middle', elata: 'tufted', riparia: 'bank', hirta: 'hairy', hirsuta: 'hairy',
  canina: 'dog', avium: 'wild', spinosa: 'thorny', australis: 'southern', caerulea: 'purple', fluitans: 'floating', maxima: 'great', latifolia: 'broad-leaved', latifolium: 'broad-leaved', angustifolium: 'narrow-leaved',
  europaeus: 'European', europaea: 'European', stricta: 'upright', tenuis: 'slender', rivale: 'water', urbanum: 'wood', cernua: 'nodding', amara: 'bitter', flexuosa: 'wavy', dioica: 'red', uniflora: 'sea', ovina: 'sheep’s',
}; // prettier-ignore
const RECALCITRANT = new Set(['Quercus', 'Castanea', 'Fagus']);
const PROTECTED = new Set(['Liparis loeselii', 'Teucrium scordium', 'Dianthus gratianopolitanus', 'Primula elatior', 'Lathyrus palustris', 'Carex appropinquata', 'Stachys germanica', 'Mentha pulegium', 'Dianthus armeria', 'Dactylorhiza traunsteinerioides']); // prettier-ignore
const RETIRED = new Set(['Quercus cerris', 'Senecio jacobaea', 'Quercus ilex', 'Alnus cordata', 'Centaurea calcitrapa', 'Rosa micrantha']);

const REGIONS = {
  'North Marrow': ['Adder Carr', 'Bittern Reach', 'Cold Harbour Fen', 'Crake Meadow', 'Drovers’ Lode', 'Eel Pie Marsh', 'Fallow Holt', 'Gault Pits', 'Hobb’s Lot', 'Isle Wood'],
  'South Marrow': ['Jackdaw Heath', 'Kelter Bog', 'Lamp Acre', 'Marl Pit Field', 'Nun’s Washes', 'Otter Staithe', 'Peat Corner', 'Quaking Moss', 'Reed Cutters’ Bed'],
  'Wending Valley': ['Alder Steps', 'Brook End', 'Cress Pond', 'Dipper Bridge', 'Elm Bottom', 'Flint Ford', 'Gravel Bank', 'Hanging Wood', 'Iron Spring'],
  'Hollow Downs': ['Barrow Top', 'Chalk Slip', 'Dewpond Piece', 'East Combe', 'Fox Hanger', 'Gallows Down', 'Hare Warren', 'Juniper Side', 'Kite Ridge', 'Lynchet Bank'],
  'Saltings Coast': ['Avocet Pans', 'Brent Point', 'Creek House', 'Dunlin Spit', 'Eelgrass Bay', 'Far Dunes', 'Glasswort Flat', 'Head of Tide', 'Inner Lagoon'],
  'Tarn Fells': ['Ash Ghyll', 'Black Tarn', 'Cloudberry Hag', 'Dow Crag Foot', 'Ewe Sike', 'Fleet Moss', 'Grain Beck', 'High Intake', 'Ice House Bog', 'Juniper Scar', 'Keld Head'],
  'Great Chase': ['Acorn Ride', 'Birch Bottom', 'Charcoal Hearth', 'Deer Leap', 'Ember Heath', 'Fungus Dell', 'Glow-worm Lane', 'Hollin Copse', 'Ivy Lodge', 'Keeper’s Pond', 'Long Lawn', 'Moot Oak'],
  // planted: a region without sites
  'Outer Islands': [],
}; // prettier-ignore
const OWNERS = ['Marrow Fen Trust', 'County council', 'Private, by letter', 'Parish', 'Water board', 'Forest service'];
const NOTES = [
  '',
  '',
  '',
  'Gate code from the office',
  'Boots; flooded until April',
  'No dogs',
  'Ring the warden first',
  'Tides: see the table',
];
const HABITATS = [
  'Wet heath',
  'Dry heath',
  'Reedbed',
  'Fen meadow',
  'Wet woodland',
  'Chalk grassland',
  'Saltmarsh',
  'Blanket bog',
  'Ditch',
];

const PEOPLE = [
  ['Maud Alder', 'Office', ''], ['Ida Fenn', 'Field', 'Maud Alder'], ['Tom Reed', 'Field', 'Maud Alder'], ['Nell Carr', 'Lab', 'Maud Alder'], ['Amos Lode', 'Store', 'Maud Alder'], ['Wyn Holt', 'Field', 'Ida Fenn'],
  ['Bess Staithe', 'Field', 'Ida Fenn'], ['Jory Marsh', 'Lab', 'Nell Carr'], ['Lena Sike', 'Lab', 'Nell Carr'], ['Cole Warren', 'Store', 'Amos Lode'], ['Peg Sluice', 'Office', 'Maud Alder'], ['Rafe Combe', 'Field', 'Ida Fenn'],
]; // prettier-ignore

let seed = 20260310;
const random = () => {
  // mulberry32
  seed = (seed + 0x6d2b79f5) | 0;
  let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
  return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
};
const pick = (list) => list[Math.floor(random() * list.length)];
const between = (a, b) => a + Math.floor(random() * (b - a + 1));

const families = [];
const genera = [];
const species = [];
for (const line of FLORA.trim().split('\n')) {
  const [family, rest] = line.split(/:\s(.*)/s);
  families.push({ name: family });
  for (const part of rest.split('; ')) {
    const [, genus, noun, epithets] = /^(\S+) \(([^)]+)\): (.*)$/.exec(part);
    genera.push({ name: genus, common: noun, family });
    const orthodox = !RECALCITRANT.has(genus);
    const base = between(2, 9) * 7;
    for (const epithet of epithets.split(', ')) {
      const name = `${genus} ${epithet}`;
      species.push({
        name,
        common: ADJECTIVES[epithet] ? `${ADJECTIVES[epithet]} ${noun}` : '',
        genus,
        germination_days: random() < 0.04 ? '' : base + between(-1, 3) * 7,
        storage_c: orthodox ? (random() < 0.85 ? -20 : -5) : 2,
        sowing_depth_mm: random() < 0.3 ? 0 : between(2, 20),
        protected: PROTECTED.has(name) ? 'yes' : 'no',
        orthodox: orthodox ? 'yes' : 'no',
        active: RETIRED.has(name) ? 'no' : 'yes',
      });
    }
  }
}
const regions = Object.keys(REGIONS).map((name, i) => ({ name, code: `R${i + 1}` }));
const sites = Object.entries(REGIONS).flatMap(([region, names]) =>
  names.map((name) => ({
    name,
    region,
    grid_reference: `MF ${between(100, 999)} ${between(100, 999)}`,
    landowner: pick(OWNERS),
    access_note: pick(NOTES),
    active: random() < 0.93 ? 'yes' : 'no',
  })),
);
const people = PEOPLE.map(([name, team, manager]) => ({
  name,
  email: `${name.split(' ')[0].toLowerCase()}@marrowfen.example`,
  team,
  manager,
}));
const plots = [];
for (const site of sites) {
  for (let i = 1, n = between(2, 5); i <= n; i++) {
    let habitat = pick(HABITATS);
    // planted: one habitat spelled three ways
    if (habitat === 'Wet heath') habitat = pick(['Wet heath', 'Wet heath', 'wet heath ', 'Wet-heath']);
    plots.push({ name: `${site.name} ${i}`, site: site.name, habitat });
  }
}
// planted: plots whose site is not among the sites any more, and one misspelled
plots.push(
  { name: 'Old Decoy 1', site: 'Old Decoy', habitat: 'Ditch' },
  { name: 'Old Decoy 2', site: 'Old Decoy', habitat: 'Reedbed' },
  { name: 'Kelter Bog 9', site: 'Kelter  Bog', habitat: 'Blanket bog' },
);

const STORES = { 'Main vault': [-20, 8], 'Cold room': [-5, 6], 'Damp store': [2, 5], 'Overflow': [-20, 5] }; // prettier-ignore
const stores = Object.entries(STORES).map(([name, [temperature]]) => ({ name, temperature }));
const shelves = Object.entries(STORES).flatMap(([store, [, n]], s) =>
  Array.from({ length: n }, (_, i) => ({ name: `${'ABCD'[s]}${i + 1}`, store })),
);
const boxes = shelves.flatMap((shelf) =>
  Array.from({ length: between(9, 12) }, (_, i) => {
    const capacity = pick([12, 24, 24, 48]);
    return {
      name: `${shelf.name}-${String(i + 1).padStart(2, '0')}`,
      shelf: shelf.name,
      capacity,
      free: random() < 0.3 ? 0 : between(1, capacity),
    };
  }),
);
const PLACES = ['Aldermere', 'Bramley', 'Caxton', 'Dunholm', 'Eastlode', 'Fenwick', 'Glebe', 'Hexley', 'Ingham', 'Jurby'];
const SCHOOLS = ['Primary School', 'High School', 'College of Land'];
const GARDENS = ['Botanic Garden', 'Walled Garden', 'Wildflower Trust', 'Restoration Group', 'Arboretum', 'Nursery'];
const partners = [];
const addresses = [];
for (let i = 0; i < 40; i++) {
  const school = i % 4 === 3;
  const place = PLACES[i % PLACES.length];
  const name = `${place} ${school ? SCHOOLS[Math.floor(i / 10) % 3] : GARDENS[(i + Math.floor(i / 10)) % 6]}`;
  if (partners.some((p) => p.name === name)) continue;
  partners.push({
    name,
    kind: school ? 'school' : i % 5 === 0 ? 'research' : 'garden',
    region: regions[i % regions.length].name,
    terms: pick(['exchange', 'invoice', 'free']),
  });
  // planted: one partner without an address; some with one
  const count = i === 7 ? 0 : i % 3 === 0 ? 1 : between(2, 3);
  for (let a = 0; a < count; a++) {
    addresses.push({
      label: `${name}, ${['office', 'glasshouse', 'gate'][a]}`,
      partner: name,
      street: `${between(1, 98)} ${pick(['Mill Lane', 'Church Street', 'Lode Way', 'Station Road', 'Carr Side'])}`,
      town: place,
      code: `MF${between(1, 9)} ${between(1, 9)}${pick(['AB', 'CD', 'EF'])}`,
      attention: pick(['Head gardener', 'Seed desk', 'The office', 'Dr Ellery', 'Ms Tansy']),
      delivery_note: pick(['', '', 'Ring before noon', 'Leave with the porter', 'Keep cool']),
    });
  }
}
// for bringing in by hand: three holders that are spelled differently
const tools = [];
for (let i = 1; i <= 24; i++) {
  const kind = pick(['pH meter', 'moisture probe', 'balance', 'camera', 'corer', 'sieve set']);
  let holder = i % 5 === 0 ? '' : pick(people).name;
  if (i === 4) holder = 'Ida  Fenn';
  if (i === 9) holder = 'Tom Read';
  if (i === 16) holder = 'Nell-Carr';
  tools.push({ name: `${kind} ${i}`, kind, serial: `MF-${String(between(1000, 9999))}`, holder });
}
// for bringing in by hand: an old ledger of lots, line by line as it was kept, from which a form can be proposed. Drawn apart, so that
// all else stays as it was.
let old = 20_240;
const chance = () => (old = (Math.imul(old, 1664525) + 1013904223) >>> 0) / 4294967296;
const any = (list) => list[Math.floor(chance() * list.length)];
const dayOf = (n) => new Date(Date.UTC(2014, 2, 1) + n * 86_400_000).toISOString().slice(0, 10);
// where it stood then, written out in each line: each cabinet is in one room, each room in one house
const cabinets = Array.from({ length: 24 }, (_, i) => {
  const room = i % 6;
  return { cabinet: `Cabinet ${String.fromCharCode(65 + room)}${Math.floor(i / 6) + 1}`, room: `${['Long', 'Low', 'Upper', 'Back', 'Apple', 'Tack'][room]} room`, house: room < 4 ? 'Old dairy' : 'Smithy' };
}); // prettier-ignore
const ledger = [];
for (let i = 0; i < 2000; i++) {
  const plant = any(species);
  const site = any(sites);
  const day = Math.floor((i * 4100) / 2000);
  const grams = Math.round(chance() * 40_000 + 200) / 100;
  const thousand = Math.round(chance() * 3000 + 120) / 1000;
  const method = chance() < 0.86 ? 'air' : any(['air', 'silica', 'freeze']);
  ledger.push({
    'Ledger number': `L${String(i + 1).padStart(4, '0')}`,
    Genus: plant.genus,
    Species: plant.name,
    Region: site.region,
    Site: site.name,
    Collected: dayOf(day),
    // two lines were written down the wrong way round
    'Dry since': dayOf(i === 611 || i === 1404 ? day - 9 : day + 2 + Math.floor(chance() * 30)),
    Grams: grams.toFixed(2),
    'Thousand seeds g': thousand.toFixed(3),
    Seeds: Math.round((grams / thousand) * 1000),
    // as the species has it, but for a few by hand
    'Kept at': chance() < 0.02 ? 10 : plant.storage_c,
    'Dried by': method,
    'Silica changed': method === 'silica' ? any(['weekly', 'monthly']) : '',
    Cabinet: cabinets[(i * 7) % 24].cabinet,
    // one line was written down wrong
    Room: i === 902 ? 'Lower room' : cabinets[(i * 7) % 24].room,
    House: cabinets[(i * 7) % 24].house,
    Remark: chance() < 0.2 ? any(['damp', 'some chaff', 'from the hedge bank', 'second visit']) : '',
  });
}
const cell = (v) => (/[",\n]|^\s|\s$/.test(String(v)) ? `"${String(v).replaceAll('"', '""')}"` : String(v));
function write(name, rows) {
  const headers = Object.keys(rows[0]);
  const lines = [headers.join(','), ...rows.map((r) => headers.map((h) => cell(r[h])).join(','))];
  writeFileSync(new URL(`./${name}.csv`, import.meta.url), `${lines.join('\n')}\n`);
  console.log(`${name}.csv: ${rows.length} rows`);
}
write('families', families);
write('genera', genera);
write('species', species);
write('regions', regions);
write('sites', sites);
write('plots', plots);
write('people', people);
write('stores', stores);
write('shelves', shelves);
write('boxes', boxes);
write('partners', partners);
write('partner_addresses', addresses);
write('tools', tools);
write('old-ledger', ledger);
