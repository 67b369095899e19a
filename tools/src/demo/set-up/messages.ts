export const MESSAGES = [
  {
    key: 'which-clay-are-you',
    name: 'Which clay are you?',
    subject: 'Which clay are you, [given-name or "friend"]?',
    text: 'Hello [given-name or "there"],\n\nwe are choosing next season’s glazes. Which would you reach for first?\n\nGlossy: [glossy]\nMatt: [matt]\nWild: [wild]\n\nOne click is your answer.\n\nFernhollow Clayworks',
    links: [
      { key: 'glossy', label: 'Glossy', tag: 'wish.glossy' },
      { key: 'matt', label: 'Matt', tag: 'wish.matt' },
      { key: 'wild', label: 'Wild', tag: 'wish.wild' },
    ],
    audience: 'price-shy-and-keen',
  },
  {
    key: 'your-glaze-shelf',
    name: 'Your glaze shelf',
    subject: 'Three glazes for your shelf',
    text: 'Hello [given-name or "there"],\n\nthree new glazes came out of the kiln this week.\n\nFernhollow Clayworks',
    links: [],
    audience: 'glaze-keepers',
  },
];
