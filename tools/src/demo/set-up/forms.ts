import { FIRES, options, SNAGS, WAYS } from './choices';

export const FORMS = [
  {
    key: 'find-your-clay',
    name: 'Find your clay',
    intro: 'A few questions, and we tell you which clay to begin with.',
    thanks: 'Thank you. Your clay is waiting in the shop.',
    outcomes: [
      {
        key: 'taster',
        name: 'See you at a taster evening',
        thanks: 'Wednesdays at seven. We have clay, wheels and aprons; bring nothing.',
        url: 'https://fernhollow.example/taster',
      },
    ],
    published: true,
    questions: [
      {
        key: 'make',
        label: 'What would you like to make?',
        type: 'several choices',
        required: true,
        options: options('bowls', 'mugs', 'vases', 'figures'),
      },
      { key: 'works-by', label: 'How do you work?', type: 'several choices', required: false, options: WAYS, field: 'works-by' },
      { key: 'fires', label: 'How do you fire?', type: 'one choice', required: false, options: FIRES },
      { key: 'stops', label: 'What stops you from starting?', type: 'one choice', required: true, options: SNAGS, field: 'stops' },
      {
        key: 'helps',
        label: 'What would help you?',
        type: 'long text',
        required: false,
        help: 'In your own words, in any language.',
        askedIf: [{ question: 'stops', anyOf: ['price', 'room', 'firing'] }],
        groups: [
          { key: 'lend', name: 'Lend or share', words: ['lend', 'rent', 'share', 'hyra', 'låna', 'dela'], add: ['snag.room'] },
          { key: 'cheaper', name: 'Cheaper', words: ['cheaper', 'discount', 'instalments', 'billigare', 'rabatt'], add: ['snag.price'] },
        ],
      },
      { key: 'name', label: 'Your first name', type: 'text', required: false, field: 'given-name' },
      { key: 'email', label: 'Your email address', type: 'email', required: true },
      { key: 'consent', label: 'You may write to me by email', type: 'consent', required: false },
      {
        key: 'taster',
        label: 'Would you come to a taster evening?',
        type: 'one choice',
        required: true,
        askedIf: [{ question: 'stops', anyOf: ['nerves'] }],
        options: [
          { key: 'yes', name: 'yes, gladly', next: { end: 'taster' } },
          { key: 'no', name: 'not now' },
        ],
      },
      { key: 'came-from', label: 'Where they came from', type: 'hidden', parameter: 'utm_source' },
    ],
  },
  {
    key: 'after-class-notes',
    name: 'After-class notes',
    intro: 'How was your class?',
    thanks: 'Thank you for telling us.',
    published: true,
    questions: [
      { key: 'liked', label: 'What did you like best?', type: 'text', required: false },
      { key: 'again', label: 'Would you come again?', type: 'one choice', required: true, options: options('yes', 'perhaps', 'no') },
      { key: 'email', label: 'Your email address', type: 'email', required: true },
    ],
  },
  {
    key: 'open-studio-evening',
    name: 'Open-studio evening sign-up',
    intro: 'The kiln is open every last Thursday.',
    thanks: 'See you at the kiln.',
    published: true,
    questions: [
      {
        key: 'bring',
        label: 'What will you work on?',
        type: 'one choice',
        required: true,
        options: [
          { key: 'throw', name: 'throwing', add: ['craft.throwing'] },
          { key: 'build', name: 'building by hand', add: ['craft.hand-building'] },
          { key: 'look', name: 'only looking' },
        ],
      },
      { key: 'name', label: 'Your first name', type: 'text', required: false, field: 'given-name' },
      { key: 'email', label: 'Your email address', type: 'email', required: true },
      { key: 'consent', label: 'You may write to me by email', type: 'consent', required: false },
    ],
  },
  {
    key: 'tableware-enquiry',
    name: 'Tableware enquiry',
    intro: 'Tell us about your place, and we come back with samples.',
    thanks: 'Thank you. The trade desk calls within two days.',
    published: true,
    questions: [
      {
        key: 'pieces',
        label: 'How many pieces?',
        type: 'one choice',
        required: true,
        options: options('under-50:under 50', '50-200:50 to 200', 'more'),
      },
      { key: 'name', label: 'Your name', type: 'text', required: false, field: 'given-name' },
      { key: 'email', label: 'Your email address', type: 'email', required: true },
    ],
  },
];
