import { fireEvent, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { definition } from '../testing/catalogue';
import { openPage } from '../testing/page';

const SAVED = { made: [], changed: ['tag t.met'], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };
const FAMILY = definition(185, 'family', 't', 'T', { prefix: 't', purpose: '', many: true });
const tag = (body: object = {}) => definition(186, 'tag', 't.met', 'met', { family: 185, ...body });
const COUNTED = { count: 12, of: 40, reachable: 3, asOf: '2026-11-25T09:00:00Z' };
const open = (body: object = {}) =>
  openPage(
    '/tags/t.met',
    {
      'GET /api/app/tags/figures': { tags: [], overlaps: [] },
      'GET /api/app/tags/t.met/replacements': { replacements: [] },
      'POST /api/v1/audiences/count': COUNTED,
      'PUT /api/v1/definitions': SAVED,
    },
    { more: [FAMILY, tag(body)] },
  );

describe('a tag that goes by itself', () => {
  it('says how many lose it when that is kept, and keeps it', async () => {
    const { asked } = open();
    await userEvent.selectOptions(await screen.findByLabelText('When it goes by itself'), 'some days after it came on');
    fireEvent.change(screen.getByLabelText('Days after which it goes'), { target: { value: '14' } });
    expect(await screen.findByText(/^12 people lose it when this is kept\./)).toBeInTheDocument();
    await waitFor(() =>
      expect(asked('POST /api/v1/audiences/count').at(-1)?.body).toMatchObject({
        condition: { kind: 'tag', tag: 't.met', op: 'has', since: { olderThan: 14, unit: 'days' } },
      }),
    );
    await userEvent.click(screen.getByRole('button', { name: /^Keep/ }));
    await waitFor(() => expect(asked('PUT /api/v1/definitions')[0]?.body).toMatchObject({ tags: [{ expires: { afterDays: 14 } }] }));
  });

  it('goes on its date only where it carries one', async () => {
    open({ value: 'date' });
    await userEvent.selectOptions(await screen.findByLabelText('When it goes by itself'), 'when its date comes');
    expect(await screen.findByText(/^12 people lose it/)).toBeInTheDocument();
  });

  it('offers no date where it carries none', async () => {
    open();
    expect(await screen.findByLabelText('When it goes by itself')).not.toHaveTextContent('when its date comes');
  });
});
