import { type AnyDefinition } from '@eager-sieve/core';
import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { catalogueView, openPage, Refused } from '../testing/page';

const bundle = (key: string, name: string): AnyDefinition =>
  ({
    id: 901,
    kind: 'bundle',
    key,
    name,
    version: 1,
    retired: false,
    epoch: 1,
    body: { then: [{ action: { do: 'add tag', tag: 60 } }] },
  }) as unknown as AnyDefinition;

/** A server that keeps a bundle, and knows it from then on. */
function keeping(more: { readonly waits?: Promise<void>; readonly known?: boolean } = {}) {
  let kept = more.known ?? false;
  return {
    'GET /api/app/catalogue': () => catalogueView(kept ? [bundle('hail', 'Hail')] : []),
    'PUT /api/v1/definitions': async () => {
      await more.waits;
      kept = true;
      return { made: [], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false };
    },
  };
}
const name = () => screen.findByLabelText('Name of the bundle');
const goTo = async (place: string): Promise<void> =>
  userEvent.click((await screen.findAllByRole('link', { name: new RegExp(`^${place}`) }))[0] as HTMLElement);

describe('a draft', () => {
  it('that was kept for the first time has its page at once', async () => {
    const { at } = openPage('/rules/bundles/new', keeping());
    await userEvent.type(await name(), 'Hail');
    await userEvent.click(screen.getByRole('button', { name: 'Keep bundle' }));
    await waitFor(() => expect(at()).toBe('/rules/bundles/hail'));
    expect(await name()).toHaveValue('Hail');
    expect(screen.queryByText(/There is no such/)).not.toBeInTheDocument();
  });

  it('that is being kept pulls nobody back who has gone elsewhere', async () => {
    let letGo = (): void => undefined;
    const waits = new Promise<void>((resolve) => (letGo = resolve));
    const { at } = openPage('/rules/bundles/new', keeping({ waits }));
    await userEvent.type(await name(), 'Hail');
    await userEvent.click(screen.getByRole('button', { name: 'Keep bundle' }));
    await goTo('Today');
    await waitFor(() => expect(at()).toBe('/'));
    letGo();
    await screen.findByText(/Hail is kept|kept/i);
    expect(at()).toBe('/');
  });

  it('is not lost by going elsewhere without a question', async () => {
    const { at } = openPage('/rules/bundles/hail', keeping({ known: true }));
    await userEvent.type(await name(), ' people');
    await goTo('Today');
    const question = within(await screen.findByRole('dialog', { name: 'Leave without keeping the changes?' }));
    expect(at()).toBe('/rules/bundles/hail');
    await userEvent.click(question.getByRole('button', { name: 'Stay here' }));
    expect(await name()).toHaveValue('Hail people');
    await goTo('Today');
    await userEvent.click(await screen.findByRole('button', { name: 'Leave and lose them' }));
    await waitFor(() => expect(at()).toBe('/'));
  });

  it('that says what is kept, or nothing yet, is left without a question', async () => {
    const { at } = openPage('/rules/bundles/new', keeping());
    await name();
    await goTo('Today');
    await waitFor(() => expect(at()).toBe('/'));
  });
});

describe('a name that another one has', () => {
  it('is refused with an offer to open the other', async () => {
    openPage('/rules/bundles/new', {
      ...keeping({ known: true }),
      'PUT /api/v1/definitions': new Refused(422, {
        title: 'Nothing was saved.',
        faults: [
          { path: ['bundles', 'hail-2', 'name'], code: 'name.taken', expected: 'another name: there is a bundle called “Hail” already' },
        ],
      }),
    });
    await userEvent.type(await name(), 'hail');
    await userEvent.click(screen.getByRole('button', { name: 'Keep bundle' }));
    expect(await screen.findByText('Needs another name: there is a bundle called “Hail” already.')).toBeInTheDocument();
    expect(screen.getByRole('link', { name: 'Open “Hail”' })).toHaveAttribute('href', '/rules/bundles/hail');
    expect(await name()).toHaveValue('hail');
  });
});

describe('something broken', () => {
  it('says on its page that it stands still, why, and leads to what has to be mended', async () => {
    const because =
      'it rests on the audience “Kiln owners”, which is broken: that needs something in place of the field “kiln”, which was deleted';
    openPage('/rules/bundles/hail', {
      'GET /api/app/catalogue': {
        ...catalogueView([bundle('hail', 'Hail')]),
        broken: [
          {
            id: 901,
            kind: 'bundle',
            key: 'hail',
            name: 'Hail',
            because,
            roots: [{ kind: 'audience', key: 'kiln', name: 'Kiln owners' }],
          },
        ],
      },
    });
    expect(await screen.findByText(/stands still/)).toBeInTheDocument();
    expect(screen.getByText(/It rests on the audience “Kiln owners”/)).toBeInTheDocument();
    expect(screen.getByRole('link', { name: 'Kiln owners' })).toHaveAttribute('href', '/audiences/kiln');
  });
});
