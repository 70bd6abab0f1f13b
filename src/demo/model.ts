import type { Field, LinkPolicy, ModelDefinition, OptionList } from '@/core/model';
import type { Option, ValueType } from '@/core/values';

const options = (names: readonly string[]): readonly Option[] =>
  names.map((name) => {
    const words = name.toLowerCase().split(' ');
    return {
      key:
        words[0]! +
        words
          .slice(1)
          .map((word) => word[0]!.toUpperCase() + word.slice(1))
          .join(''),
      name,
    };
  });

const field = (key: string, name: string, type: ValueType, more: Partial<Field> = {}): Field => ({
  key,
  name,
  type,
  ...more,
});
const text = (key: string, name: string, more?: Partial<Field>) => field(key, name, { kind: 'text' }, more);
const money = (key: string, name: string, help?: string) =>
  field(key, name, { kind: 'money', currency: 'GBP' }, { help });
const number = (key: string, name: string, scale = 0, unit?: string) =>
  field(key, name, { kind: 'number', scale, ...(unit ? { unit } : {}) });
const choice = (key: string, name: string, names: readonly string[]) =>
  field(key, name, { kind: 'choice', options: options(names) });
const link = (key: string, name: string, target: string, otherEnd: string, whenParentGoes: LinkPolicy) =>
  field(key, name, { kind: 'link', target }, { otherEnd, whenParentGoes });

const shared = ({ key, options: of }: OptionList, kind: 'choice' | 'choices'): ValueType => ({
  kind,
  options: of,
  list: key,
});

const read = (key: string) => ({ kind: 'field', route: [], field: key }) as const;

const LANGUAGES: OptionList = {
  key: 'labelLanguages',
  name: 'Label languages',
  options: options(['English', 'Welsh', 'French', 'German', 'Spanish']),
};
const MARKS: OptionList = { key: 'marks', name: 'Marks', options: options(['Green', 'Amber', 'Red']) };
const mark = (key: string, name: string) => field(key, name, shared(MARKS, 'choice'));

/** Wrenfield Touring's records: institutions, the exhibitions that travel to them, the loans and artefacts in these. */
export const WRENFIELD: ModelDefinition = {
  types: [
    {
      ...{ key: 'institution', name: 'Institution', plural: 'Institutions', title: 'name' },
      fields: [
        text('name', 'Name', { required: true }),
        field('roles', 'Roles', { kind: 'choices', options: options(['Lender', 'Venue']) }),
        link('partOf', 'Part of', 'institution', 'Parts', 'clear'),
        text('country', 'Country'),
        choice('sector', 'Sector', ['Museum', 'Gallery', 'Library', 'Private collection']),
        field('registrar', 'Registrar', { kind: 'person' }),
        number('galleryVolume', 'Gallery volume', 1, 'm³'),
        choice('dealings', 'Dealings', ['None', 'In talks', 'Active', 'Past']),
        money('lentTotal', 'Lent total', 'What its agreed loans and those of its parts are insured for.'),
        number('loanCount', 'Loan count'),
        number('piecesLent', 'Pieces lent', 0),
      ],
    },
    {
      ...{ key: 'exhibition', name: 'Exhibition', plural: 'Exhibitions', title: 'title' },
      fields: [
        text('title', 'Title', { required: true }),
        choice('stage', 'Stage', ['Proposed', 'Confirmed', 'Installing', 'Open', 'Closed']),
        link('venue', 'Venue', 'institution', 'Exhibitions', 'clear'),
        field('curator', 'Curator', { kind: 'person' }),
        field('coordinator', 'Coordinator', { kind: 'person' }),
        field('coordinatorBefore', 'Coordinator before', { kind: 'person' }),
        field('opens', 'Opens', { kind: 'date' }),
        field('closes', 'Closes', { kind: 'date' }),
        text('climate', 'Climate requirement'),
        field('languages', 'Label languages', shared(LANGUAGES, 'choices')),
        money('insuredTotal', 'Insured total', 'What the insurer is told before the transport is booked.'),
        number('artefactCount', 'Artefact count'),
        text('lenders', 'Lenders', { help: 'Whom the labels thank.' }),
        text('makers', 'Makers'),
        money('averageFee', 'Average fee'),
        money(
          'quotedFees',
          'Quoted fees',
          'The fees of the loans as they were when they were last asked for.',
        ),
        field('quote', 'Quote the fees', { kind: 'yesNo' }),
        field('lastDueBack', 'Last due back', { kind: 'date' }),
        number('dueSoon', 'Loans due soon'),
        number('artefactsToPermit', 'Artefacts that need a permit'),
        field('ready', 'Ready', { kind: 'yesNo' }),
        mark('loansMark', 'Loans mark'),
        mark('transportMark', 'Transport mark'),
        mark('installationMark', 'Installation mark'),
      ],
    },
    {
      ...{ key: 'loan', name: 'Loan', plural: 'Loans', title: 'title' },
      fields: [
        text('title', 'Title', { required: true }),
        link('exhibition', 'Exhibition', 'exhibition', 'Loans', 'delete'),
        link('lender', 'Lender', 'institution', 'Loans out', 'refuse'),
        link('topLender', 'Top lender', 'institution', 'Loans of the whole house', 'clear'),
        choice('stage', 'Stage', ['Requested', 'Agreed', 'Declined', 'Returned']),
        field(
          'insuredValue',
          'Insured value',
          { kind: 'anyMoney' },
          { help: 'As the lender states it, in the lender’s currency; each loan is insured as a whole.' },
        ),
        money('fee', 'Fee'),
        field('dueBack', 'Due back', { kind: 'date' }),
        text('climate', 'Climate requirement'),
        field('languages', 'Label languages', shared(LANGUAGES, 'choices')),
        field('courierInstruction', 'Courier instruction', { kind: 'longText' }),
        field('coordinator', 'Coordinator', { kind: 'person' }),
        field('coordinatorBefore', 'Coordinator before', { kind: 'person' }),
        number('artefactCount', 'Artefact count'),
        money('agreedTotal', 'Agreed total', 'The agreed values of its artefacts together.'),
        field('handlingGrade', 'Handling grade', { kind: 'rating', lowest: 1, highest: 6 }),
        money(
          'climateLevy',
          'Climate levy',
          'What the venue’s climate costs for each loan, by the volume of its gallery.',
        ),
      ],
    },
    {
      ...{ key: 'artefact', name: 'Artefact', plural: 'Artefacts', title: 'title' },
      fields: [
        text('title', 'Title', { required: true }),
        field('number', 'Number', { kind: 'serial', prefix: 'ART-', digits: 4 }),
        link('loan', 'Loan', 'loan', 'Artefacts', 'delete'),
        link('crate', 'Crate', 'crate', 'Artefacts', 'clear'),
        text('crateLabel', 'Crate label', {
          help: 'As it stands on the packers’ list; the crate is found by it.',
        }),
        text('maker', 'Maker'),
        choice('objectKind', 'Kind', [
          'Textile',
          'Metalwork',
          'Ceramic',
          'Instrument',
          'Work on paper',
          'Carving',
        ]),
        money('agreedValue', 'Agreed value'),
        number('volume', 'Volume', 3, 'm³'),
        field('fragile', 'Fragile', { kind: 'yesNo' }),
        field('inspected', 'Inspected', { kind: 'yesNo' }),
        field('inspectedOn', 'Last inspected on', { kind: 'date' }),
        field('inspectedBy', 'Last inspected by', { kind: 'person' }),
        field(
          'handlingGrade',
          'Handling grade',
          { kind: 'rating', lowest: 1, highest: 6 },
          { help: 'The average of its handling reports; 1 is easiest to handle, 6 hardest.' },
        ),
        choice('handling', 'Handling', ['With care', 'By two', 'As usual']),
        field(
          'needsPermit',
          'Needs permit',
          { kind: 'yesNo' },
          { help: 'One of its materials is protected: it crosses a border with papers only.' },
        ),
        field('packed', 'Packed', { kind: 'yesNo' }),
        link('insuranceLine', 'Insurance line', 'insuranceLine', 'Insured by it', 'clear'),
        text('insuranceNumber', 'Insurance number'),
      ],
    },
    {
      ...{ key: 'material', name: 'Material', plural: 'Materials', title: 'name' },
      fields: [text('name', 'Name', { required: true }), field('protected', 'Protected', { kind: 'yesNo' })],
    },
    {
      ...{ key: 'materialUse', name: 'Material use', plural: 'Material uses', title: 'title', bridge: true },
      fields: [
        text('title', 'Title', { required: true }),
        { ...link('artefact', 'Artefact', 'artefact', 'Material uses', 'delete'), required: true },
        { ...link('material', 'Material', 'material', 'Uses', 'delete'), required: true },
        number('share', 'Share', 0, '%'),
      ],
    },
    {
      ...{ key: 'handlingReport', name: 'Handling report', plural: 'Handling reports', title: 'title' },
      fields: [
        text('title', 'Title', { required: true }),
        link('artefact', 'Artefact', 'artefact', 'Handling reports', 'delete'),
        field(
          'grade',
          'Grade',
          { kind: 'rating', lowest: 1, highest: 6 },
          { help: '1 is easiest to handle, 6 hardest.' },
        ),
        field('day', 'Day', { kind: 'date' }),
        field('remark', 'Remark', { kind: 'longText' }),
      ],
    },
    {
      ...{ key: 'statusSheet', name: 'Status sheet', plural: 'Status sheets', title: 'title' },
      fields: [
        text('title', 'Title', { required: true }),
        link('exhibition', 'Exhibition', 'exhibition', 'Status sheets', 'delete'),
        field('day', 'Day', { kind: 'date' }),
        mark('loansMark', 'Loans mark'),
        mark('transportMark', 'Transport mark'),
        mark('installationMark', 'Installation mark'),
        field('remark', 'Remark', { kind: 'longText' }),
      ],
    },
    {
      ...{ key: 'shipment', name: 'Shipment', plural: 'Shipments', title: 'leg' },
      fields: [
        text('leg', 'Leg', { required: true }),
        link('exhibition', 'Exhibition', 'exhibition', 'Shipments', 'delete'),
        text('carrier', 'Carrier'),
        choice('stage', 'Stage', ['Planned', 'Packed', 'On the way', 'Delivered']),
        money('cover', 'Cover', 'What its outermost crates are insured for.'),
        money('limit', 'Limit', 'What the carrier insures at most.'),
        field('inspectedOn', 'Latest inspection', { kind: 'date' }),
        field('inspectedBy', 'Inspected by', { kind: 'person' }),
      ],
    },
    {
      ...{ key: 'crate', name: 'Crate', plural: 'Crates', title: 'label' },
      fields: [
        text('label', 'Label', { required: true }),
        link('shipment', 'Shipment', 'shipment', 'Crates', 'clear'),
        link('inside', 'Inside', 'crate', 'Crates inside', 'refuse'),
        money('ownCover', 'Own cover', 'What the crate itself is insured for.'),
        money('declaredCover', 'Declared cover', 'As the carrier states it; it stands in for the sum.'),
        money('cover', 'Cover', 'What the crate and all that lies in it are insured for.'),
        field('sealed', 'Sealed', { kind: 'yesNo' }),
        field('delivered', 'Delivered', { kind: 'yesNo' }),
        text('stamp', 'Stamp'),
        field(
          'allSealed',
          'All sealed',
          { kind: 'yesNo' },
          { help: 'It is sealed itself, and everything in it is packed and sealed.' },
        ),
        field('inspectedOn', 'Last inspected on', { kind: 'date' }),
        field('inspectedBy', 'Last inspected by', { kind: 'person' }),
        field(
          'anyFragile',
          'Any fragile',
          { kind: 'yesNo' },
          { help: 'Something in it must not be tilted.' },
        ),
      ],
    },
    {
      ...{ key: 'courier', name: 'Courier', plural: 'Couriers', title: 'name' },
      fields: [
        text('name', 'Name', { required: true }),
        text('email', 'E-mail'),
        choice('availability', 'Availability', ['Free', 'Asked', 'On tour', 'On leave']),
        text('latestExhibition', 'Latest exhibition'),
        field('latestOpens', 'Its opening', { kind: 'date' }),
      ],
    },
    {
      ...{ key: 'assignment', name: 'Assignment', plural: 'Assignments', title: 'role', bridge: true },
      fields: [
        text('role', 'Role', { required: true }),
        { ...link('courier', 'Courier', 'courier', 'Assignments', 'delete'), required: true },
        {
          ...link('exhibition', 'Exhibition', 'exhibition', 'Couriers’ assignments', 'delete'),
          required: true,
        },
        text('note', 'Note'),
      ],
    },
    {
      ...{ key: 'fitting', name: 'Fitting', plural: 'Fittings', title: 'name' },
      fields: [
        text('name', 'Name', { required: true }),
        money('unitCost', 'Unit cost', 'What it is bought for; empty where it is made from parts.'),
        money('ownLabour', 'Own labour', 'What putting it together costs.'),
        money('totalCost', 'Total cost', 'What it costs with all its parts, at any depth.'),
      ],
    },
    {
      ...{ key: 'fittingPart', name: 'Fitting part', plural: 'Fitting parts', title: 'title', bridge: true },
      fields: [
        text('title', 'Title', { required: true }),
        { ...link('whole', 'Whole', 'fitting', 'Parts', 'delete'), required: true },
        { ...link('part', 'Part', 'fitting', 'Used in', 'refuse'), required: true },
        number('pieces', 'Pieces'),
      ],
    },
    {
      ...{ key: 'rate', name: 'Rate', plural: 'Rates', title: 'title' },
      fields: [
        text('title', 'Title', { required: true }),
        text('pair', 'Pair', { help: 'Such as EUR/GBP: so many pounds for one euro.' }),
        field('day', 'Day', { kind: 'date' }),
        number('rate', 'Rate', 4),
      ],
      rates: { pair: 'pair', day: 'day', rate: 'rate' },
    },
    {
      ...{ key: 'inspection', name: 'Inspection', plural: 'Inspections', title: 'title' },
      fields: [
        text('title', 'Title', { required: true }),
        field('number', 'Number', { kind: 'serial', prefix: 'INS-', digits: 4 }),
        link('artefact', 'Artefact', 'artefact', 'Inspections', 'delete'),
        link('crate', 'Crate', 'crate', 'Inspections', 'delete'),
        field('inspector', 'Inspector', { kind: 'person' }),
        field('byPhoto', 'By photo only', { kind: 'yesNo' }),
        field('finding', 'Finding', { kind: 'longText' }),
        field('completed', 'Completed', { kind: 'yesNo' }),
        field('completedOn', 'Completed on', { kind: 'date' }),
        choice('outcome', 'Outcome', ['Sound', 'Watch', 'Damage']),
      ],
      openLinks: [
        {
          ...{ key: 'concerns', name: 'Concerns', links: ['artefact', 'crate'], required: true },
          help: 'What was looked at.',
        },
      ],
    },
    {
      ...{ key: 'treatment', name: 'Treatment', plural: 'Treatments', title: 'title' },
      fields: [
        text('title', 'Title', { required: true }),
        field('number', 'Number', { kind: 'serial', prefix: 'TR-', digits: 4 }),
        link('artefact', 'Artefact', 'artefact', 'Treatments', 'delete'),
        link('inspection', 'Inspection', 'inspection', 'Treatment', 'clear'),
        field('finding', 'Finding', { kind: 'longText' }, { help: 'What the inspection found.' }),
        field('foundOn', 'Found on', { kind: 'date' }),
        field('foundBy', 'Found by', { kind: 'person' }),
        { ...choice('state', 'State', ['Planned', 'Under way', 'Done', 'Dropped']), default: 'planned' },
      ],
    },
    {
      ...{ key: 'insuranceLine', name: 'Insurance line', plural: 'Insurance lines', title: 'title' },
      fields: [
        text('title', 'Title', { required: true }),
        field('number', 'Number', { kind: 'serial', prefix: 'IL-', digits: 4 }),
        link('artefact', 'Artefact', 'artefact', 'Insurance lines', 'clear'),
        text('artefactNumber', 'Artefact number'),
        text('maker', 'Maker'),
        money('agreedValue', 'Agreed value'),
        { ...choice('state', 'State', ['Current', 'Ended']), default: 'current' },
      ],
    },
  ],
  lists: [LANGUAGES, MARKS],
  selections: [
    {
      ...{ key: 'neverInspected', name: 'Never inspected', type: 'artefact' },
      condition: { kind: 'presence', operator: 'isEmpty', operand: read('inspectedOn') },
    },
    {
      ...{ key: 'notInspectedLately', name: 'Not inspected in the last 6 months', type: 'artefact' },
      condition: {
        ...{ kind: 'group', operator: 'none' },
        of: [
          {
            ...{ kind: 'compare', operator: '>=', left: read('inspectedOn') },
            right: { kind: 'day', from: 'today', plus: -6, unit: 'month' },
          },
        ],
      },
    },
    {
      ...{ key: 'withCourier', name: 'With a courier', type: 'loan' },
      condition: { kind: 'presence', operator: 'isNotEmpty', operand: read('courierInstruction') },
    },
  ],
};
