import { type SetAsideView } from '@eager-sieve/contracts';
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPart, Refused } from '../testing/page';
import { SetAside } from './set-aside';

const ASIDE = 'GET /api/app/set-aside';
const AGAIN = 'POST /api/app/set-aside/1/again';
const DROP = 'DELETE /api/app/set-aside/1';
const entry: SetAsideView = {
  id: 1,
  kind: 'signal',
  what: 'a signal',
  contact: 'c1',
  contactName: 'Anna',
  company: null,
  companyName: null,
  arrivedAt: '2026-05-01T08:00:00Z',
  setAsideAt: '2026-05-01T08:00:01Z',
  code: '22003',
};

describe('what was set aside', () => {
  it('is not spoken of where there is nothing', async () => {
    const { asked } = openPart(<SetAside />, { [ASIDE]: [] });
    await waitFor(() => expect(asked(ASIDE)).toHaveLength(1));
    expect(screen.queryByText('Set aside')).not.toBeInTheDocument();
  });

  it('says whose it is and why, and leads there', async () => {
    openPart(<SetAside />, {
      [ASIDE]: [entry, { ...entry, id: 2, contact: null, contactName: null, company: '9', companyName: 'Kiln & Co' }],
    });
    expect(await screen.findByRole('link', { name: 'Anna' })).toHaveAttribute('href', '/people/c1');
    expect(screen.getByRole('link', { name: 'Kiln & Co' })).toHaveAttribute('href', '/companies/9');
    expect(screen.getAllByText(/error 22003/)).toHaveLength(2);
  });

  it('is tried again or dropped, and goes from the list', async () => {
    let left: readonly SetAsideView[] = [entry];
    const gone = (): undefined => void (left = []);
    const { asked } = openPart(<SetAside />, {
      [ASIDE]: () => left,
      [AGAIN]: new Refused(503, { title: 'The database is away.' }),
      [DROP]: gone,
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Try again' }));
    expect(await screen.findByText('The database is away.')).toBeInTheDocument();
    await userEvent.click(await screen.findByRole('button', { name: 'Drop' }));
    await waitFor(() => expect(screen.queryByText('Set aside')).not.toBeInTheDocument());
    expect([asked(AGAIN).length, asked(DROP).length]).toEqual([1, 1]);
  });

  it('is offered to nobody who may only read', async () => {
    openPart(<SetAside />, { [ASIDE]: [entry] }, { may: ['contacts:read'] });
    await screen.findByRole('link', { name: 'Anna' });
    expect(screen.queryByRole('button', { name: 'Drop' })).not.toBeInTheDocument();
  });

  it('is tried again in one go where several stumbled over the same error', async () => {
    const again = 'POST /api/app/set-aside/again';
    const { asked } = openPart(<SetAside />, {
      [ASIDE]: [entry, { ...entry, id: 2 }, { ...entry, id: 3, code: 'other' }],
      [again]: { tried: 2 },
    });
    await userEvent.click(await screen.findByRole('button', { name: 'Try all 2 with error 22003 again' }));
    await waitFor(() => expect(asked(again)).toHaveLength(1));
    expect(asked(again)[0]?.body).toEqual({ code: '22003' });
    expect(screen.queryByRole('button', { name: /error other again/ })).not.toBeInTheDocument();
  });
});
