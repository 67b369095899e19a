import { screen } from '@testing-library/react';
import { aCount } from '../testing/answers';
import { definition } from '../testing/catalogue';
import { openPage, type SentRequest } from '../testing/page';

const WEIGHT = definition(70, 'scorecard', 'weight', 'Weight', {
  of: 'deal',
  min: 0,
  max: 100,
  bands: [
    { key: 'light', name: 'light', from: 0 },
    { key: 'heavy', name: 'heavy', from: 40 },
  ],
  lines: [],
});

describe('the scorecards', () => {
  it('say how many contacts, companies and deals stand in each band', async () => {
    const { asked } = openPage(
      '/scores',
      {
        'POST /api/v1/audiences/count': ({ body }: SentRequest) =>
          (body as { of: string }).of === 'company' ? aCount({ count: 31, of: 40 }) : aCount({ count: 1_204, of: 5_000 }),
        'GET /api/app/deals/bands/:id': { of: 9, bands: { light: 9 } },
      },
      { more: [WEIGHT] },
    );
    expect(await screen.findAllByText('1,204')).toHaveLength(2);
    expect(await screen.findByText('31')).toBeInTheDocument();
    expect((await screen.findByText('9')).parentElement).toHaveTextContent('light from 09');
    expect((await screen.findByText('0')).parentElement).toHaveTextContent('heavy from 400');
    expect(asked('GET /api/app/deals/bands/:id').map(({ path }) => path)).toEqual(['/api/app/deals/bands/weight']);
  });
});
