/** What the demo's records are named after. All of it is invented. */

export const PEOPLE = [
  ['Ines Valcourt', 'Systems administrator'],
  ['Maren Oduya', 'Curator'],
  ['Tobias Lindqvist', 'Curator'],
  ['Elsie Hartnoll', 'Coordinator'],
  ['Farid Benhaddou', 'Coordinator'],
  ['Callum Reyes', 'Coordinator'],
  ['Priya Ramanathan', 'Registrar'],
  ['Jonas Achterberg', 'Registrar'],
] as const;

export interface InstitutionSketch {
  readonly name: string;
  readonly country: string;
  readonly sector: 'museum' | 'gallery' | 'library' | 'privateCollection';
  readonly roles: readonly ('lender' | 'venue')[];
  readonly partOf?: string;
  readonly volume?: string;
}

export const INSTITUTIONS: readonly InstitutionSketch[] = [
  { name: 'Aldermoor Museums Trust', country: 'England', sector: 'museum', roles: ['lender'] },
  {
    name: 'Aldermoor Museum of Textiles',
    country: 'England',
    sector: 'museum',
    roles: ['lender', 'venue'],
    partOf: 'Aldermoor Museums Trust',
    volume: '3120.5',
  },
  {
    name: 'Aldermoor Maritime House',
    country: 'England',
    sector: 'museum',
    roles: ['lender'],
    partOf: 'Aldermoor Museums Trust',
  },
  { name: 'Bexcombe Gallery', country: 'England', sector: 'gallery', roles: ['venue'], volume: '1850.0' },
  {
    name: 'Calder Vale Museum',
    country: 'Scotland',
    sector: 'museum',
    roles: ['lender', 'venue'],
    volume: '2240.0',
  },
  { name: 'Collection Sørvåg', country: 'Norway', sector: 'privateCollection', roles: ['lender'] },
  { name: 'Dunmarrow City Library', country: 'Ireland', sector: 'library', roles: ['lender'] },
  {
    name: 'Harbour Hall, Penwithen',
    country: 'Wales',
    sector: 'gallery',
    roles: ['venue'],
    volume: '1460.8',
  },
  { name: 'Kestrel Museum', country: 'England', sector: 'museum', roles: ['lender'] },
  { name: 'Musée de Valdorne', country: 'France', sector: 'museum', roles: ['lender'] },
  { name: 'Orrery House', country: 'England', sector: 'museum', roles: ['lender', 'venue'], volume: '980.0' },
  { name: 'Stiftung Lindenau', country: 'Germany', sector: 'privateCollection', roles: ['lender'] },
  {
    name: 'Thornwick Castle',
    country: 'England',
    sector: 'museum',
    roles: ['lender', 'venue'],
    volume: '2705.4',
  },
  { name: 'Westering Gallery', country: 'Scotland', sector: 'gallery', roles: ['venue'], volume: '1320.0' },
];

export interface GroupSketch {
  readonly name: string;
  readonly kind: 'textile' | 'metalwork' | 'ceramic' | 'instrument' | 'workOnPaper' | 'carving';
  readonly pieces: readonly string[];
}

export interface ExhibitionSketch {
  readonly title: string;
  readonly stage: 'proposed' | 'confirmed' | 'installing' | 'open' | 'closed';
  readonly venue: string;
  readonly opens: string;
  readonly closes: string;
  readonly climate: string;
  readonly groups: readonly GroupSketch[];
}

const group = (kind: GroupSketch['kind'], name: string, pieces: string): GroupSketch => ({
  kind,
  name,
  pieces: pieces.split(', '),
});

export const EXHIBITIONS: readonly ExhibitionSketch[] = [
  {
    ...{
      title: 'Rivers of Silk',
      stage: 'confirmed',
      venue: 'Aldermoor Museum of Textiles',
      opens: '2027-03-12',
      closes: '2027-08-29',
      climate: '18–20 °C, 50 % humidity',
    },
    groups: [
      group(
        'textile',
        'court robes',
        'Robe with cranes, Robe with river dragons, Summer robe of gauze, Winter robe lined with fox, Half robe for a child, Ceremonial apron, Rank badge with a goose, Pair of sleeve bands',
      ),
      group(
        'textile',
        'saddle cloths',
        'Saddle cloth with pomegranates, Saddle cloth with tassels, Felt under-saddle, Horse blanket in madder red, Bridle band, Quilted saddle cover',
      ),
      group(
        'textile',
        'ikat panels',
        'Panel with red lozenges, Panel with scorpions, Cradle hanging, Striped lining, Panel of seven colours, Wall hanging in two halves, Panel with almond motif',
      ),
      group(
        'metalwork',
        'weavers’ tools',
        'Silver thimble, Bronze shears, Reed hook, Brass bobbin case, Weighing scale for cocoons, Engraved needle box',
      ),
      group(
        'workOnPaper',
        'pattern books',
        'Pattern book of the north workshop, Sample ledger 1811, Folding album of borders, Dyer’s notebook, Merchant’s price list',
      ),
      group(
        'textile',
        'hats and sashes',
        'Hat with kingfisher feathers, Felt travelling hat, Sash with gold ends, Sash of twisted cord, Bridal cap, Boy’s cap with a tiger, Turban cloth, Girdle with jade hooks, Pair of embroidered cuffs',
      ),
      group(
        'ceramic',
        'dye pots',
        'Indigo pot, Madder pot with lid, Salt-glazed jar, Mixing bowl, Pot with dripped glaze, Small jar for alum',
      ),
      group(
        'carving',
        'printing blocks',
        'Block with cypress, Border block with vine, Block with peacock pair, Corner block, Block for a prayer cloth, Block set of four, Repair block, Block with star rosette',
      ),
    ],
  },
  {
    ...{
      title: 'Salt and Silver',
      stage: 'installing',
      venue: 'Bexcombe Gallery',
      opens: '2026-12-04',
      closes: '2027-04-18',
      climate: '19–21 °C, below 45 % humidity',
    },
    groups: [
      group(
        'metalwork',
        'table salts',
        'Standing salt with lions, Bell salt, Trencher salt, Salt in the form of a shell, Double salt, Salt with a crystal column, Travelling salt',
      ),
      group(
        'metalwork',
        'tankards',
        'Peg tankard, Tankard with coin base, Small tankard of a guild, Lidded tankard with acorn, Presentation tankard 1702, Tankard with hunting frieze',
      ),
      group(
        'metalwork',
        'church plate',
        'Chalice with enamels, Paten, Processional cross, Incense boat, Pair of altar cruets, Alms dish',
      ),
      group(
        'workOnPaper',
        'assay ledgers',
        'Assay ledger 1688–1702, Book of makers’ marks, Apprentice roll, Receipt book of the salt office, Map of the salt pans',
      ),
      group(
        'metalwork',
        'spoons and ladles',
        'Apostle spoon, Set of six rat-tail spoons, Caddy spoon in the form of a leaf, Marrow scoop, Punch ladle, Mote spoon, Folding spoon in a case, Snuff spoon, Basting spoon',
      ),
      group(
        'ceramic',
        'salt-glazed wares',
        'Bear jug, Tea canister, Punch pot, Scratch-blue mug, Owl cup, Moulded sauce boat, Salt-glazed tile',
      ),
      group(
        'carving',
        'moulds and models',
        'Boxwood model of a handle, Sugar mould, Lead pattern of a mask, Pearwood mould for a spoon, Wax model of a dolphin',
      ),
    ],
  },
  {
    ...{
      title: 'The Mapmaker’s Table',
      stage: 'open',
      venue: 'Thornwick Castle',
      opens: '2026-09-18',
      closes: '2027-02-07',
      climate: '18–20 °C, 45–50 % humidity, 50 lux',
    },
    groups: [
      group(
        'workOnPaper',
        'sea charts',
        'Chart of the western approaches, Chart of the Sound, Portolan on one skin, Pilot’s sketch book, Chart with compass roses, Chart of the herring banks, Soundings of a river mouth, Harbour plan of Penwithen',
      ),
      group(
        'workOnPaper',
        'county maps',
        'County map with hundred names, Estate map of Thornwick, Tithe map, Road strip map, Map of the fens before drainage, Proof sheet with corrections, Index map',
      ),
      group(
        'instrument',
        'surveying instruments',
        'Theodolite by Harrow, Circumferentor, Gunter’s chain, Plane table with alidade, Waywiser, Pocket sextant, Surveyor’s level',
      ),
      group(
        'instrument',
        'globes',
        'Terrestrial globe, Celestial globe, Pocket globe in a fish-skin case, Globe gores uncut, Library globe on stand',
      ),
      group(
        'metalwork',
        'copper plates',
        'Plate of the northern coast, Plate of a title cartouche, Plate struck through, Plate with sea monsters, Small plate of a wind rose, Plate of the town',
      ),
      group(
        'carving',
        'relief models',
        'Model of the pass, Wooden model of the fort, Plaster relief of the valley, Cork relief of an island',
      ),
      group(
        'workOnPaper',
        'travellers’ guides',
        'Itinerary of the post roads, Pilgrim’s strip, Guide to the spas, Folding map in a slip case, Traveller’s phrase book, Coaching broadside, Map printed on a handkerchief, Book of distances, Annotated railway map',
      ),
    ],
  },
  {
    ...{
      title: 'Instruments of the Night',
      stage: 'proposed',
      venue: 'Orrery House',
      opens: '2027-10-01',
      closes: '2028-01-30',
      climate: '20 °C, 40–50 % humidity',
    },
    groups: [
      group(
        'instrument',
        'astrolabes',
        'Planispheric astrolabe, Mariner’s astrolabe, Astrolabe with nine plates, Unfinished rete, Quadrant in brass, Astrolabe of Tomas the Younger',
      ),
      group(
        'instrument',
        'telescopes',
        'Refractor of six draws, Reflector in mahogany, Opera glass, Comet seeker, Telescope with shagreen tube, Table telescope, Finder',
      ),
      group(
        'workOnPaper',
        'star atlases',
        'Atlas in twenty-six sheets, Constellation cards, Hand-coloured southern sky, Almanac 1742, Drawing of the moon, Observer’s diary',
      ),
      group(
        'instrument',
        'clocks',
        'Regulator, Table clock with moon dial, Nocturnal, Hourglass set of four, Sidereal pocket watch',
      ),
      group(
        'carving',
        'orreries',
        'Grand orrery, Tellurion, Portable orrery in a case, Model of an eclipse, Wooden Jupiter with moons',
      ),
      group(
        'textile',
        'banners of the night',
        'Banner of the sleeping city, Bed hanging with stars, Lantern cloth, Processional canopy',
      ),
    ],
  },
  {
    ...{
      title: 'Small Gods of the Household',
      stage: 'confirmed',
      venue: 'Calder Vale Museum',
      opens: '2027-05-21',
      closes: '2027-10-10',
      climate: '18–22 °C, 45–55 % humidity',
    },
    groups: [
      group(
        'carving',
        'hearth figures',
        'Seated figure with a bowl, Pair of door guardians, Figure with inlaid eyes, Soot-black figure, Figure holding a child, Bent figure, Twin figures, Headless figure',
      ),
      group(
        'ceramic',
        'shrine lamps',
        'Lamp with three spouts, Lamp in the form of a house, Lamp with a handle of vines, Oil filler, Broken lamp mended in lead, Miniature lamp, Lamp stand',
      ),
      group(
        'metalwork',
        'votive plaques',
        'Plaque of a hand, Plaque of a pair of eyes, Plaque of a cow, Plaque with inscription, Plaque of a boat',
      ),
      group(
        'textile',
        'shrine cloths',
        'Cloth with bells, Patched altar cloth, Cloth for the new year, Red cord with knots, Curtain with a door motif',
      ),
      group(
        'workOnPaper',
        'kitchen prints',
        'Print of the kitchen pair, Print of the well spirit, Paper horse, New year sheet, Printed charm against fire, Sheet of twelve guardians',
      ),
      group(
        'ceramic',
        'offering bowls',
        'Bowl with a fish, Footed bowl, Bowl with barley pattern, Nested bowls, Chipped bowl from a threshold, Bowl with a lid',
      ),
      group(
        'metalwork',
        'amulets',
        'Amulet case with chain, Silver hand, Bell amulet, Key of a shrine, Amulet with coral, Child’s anklet with bells, Crescent pendant, Pair of snake rings, Charm in the form of a comb',
      ),
    ],
  },
  {
    ...{
      title: 'Painted Sails',
      stage: 'closed',
      venue: 'Harbour Hall, Penwithen',
      opens: '2026-02-20',
      closes: '2026-07-12',
      climate: '18–20 °C, 50 % humidity',
    },
    groups: [
      group(
        'textile',
        'sails',
        'Lug sail with an eye, Sail of ochre canvas, Top sail fragment, Sail with a mended star, Regatta sail 1889, Sail of a child’s boat',
      ),
      group(
        'carving',
        'figureheads',
        'Figurehead of a woman in green, Figurehead of a hound, Stern board with dolphins, Carved tiller, Billet head, Trail board, Name board of the Patience',
      ),
      group(
        'workOnPaper',
        'sail plans',
        'Sail plan of a lugger, Loft floor drawing, Sailmaker’s order book, Watercolour of the fleet, Photograph album of the yard',
      ),
      group(
        'instrument',
        'sailmakers’ tools',
        'Sewing palm, Fid of whalebone, Seam rubber, Box of needles, Beeswax block with stamp, Grommet die',
      ),
      group(
        'metalwork',
        'ship’s fittings',
        'Brass block, Ship’s bell of the Curlew, Anchor ring, Binnacle lamp, Cleat with a serpent',
      ),
      group(
        'ceramic',
        'harbour wares',
        'Mug with a schooner, Rope-handled jug, Sailor’s farewell plate, Puzzle jug, Figure of a fishwife',
      ),
      group(
        'instrument',
        'navigation',
        'Traverse board, Log reel, Octant by Fell, Ship’s compass, Telescope of the harbour master',
      ),
    ],
  },
];
