import { MAX_ATTACHMENTS } from '@eager-sieve/contracts';
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { ReadOnly } from '../ui/offer';
import { openPart, Refused, type SentRequest } from '../testing/page';
import { Attachments } from './attachments';

const file = (id: number, by = 'wren@test.example') => ({ id, name: `plan ${id}.pdf`, bytes: 1_500, by, at: '2026-05-01T08:00:00Z' });
const about = { contact: 'c1' };
const chosen = (name: string) => new File(['a plan'], name);

describe('the files of a contact', () => {
  it('are added one after another, saved by a link, and removed after a question', async () => {
    let files = [file(1)];
    const { asked } = openPart(<Attachments about={about} />, {
      'GET /api/app/attachments': () => ({ attachments: files }),
      'POST /api/app/attachments': ({ query }: SentRequest) => {
        const made = { ...file(files.length + 1), name: query['name'] ?? '' };
        files = [made, ...files];
        return made;
      },
      'DELETE /api/app/attachments/:id': () => {
        files = files.filter(({ id }) => id !== 1);
      },
    });
    expect(await screen.findByRole('link', { name: 'plan 1.pdf' })).toHaveAttribute('href', '/api/app/attachments/1');
    expect(screen.getByText(/2 kB · wren@test.example/)).toBeInTheDocument();
    await userEvent.upload(screen.getByLabelText('+ file'), [chosen('a.txt'), chosen('b.txt')]);
    expect(await screen.findByRole('link', { name: 'b.txt' })).toBeInTheDocument();
    expect(asked('POST /api/app/attachments').map(({ query }) => query)).toEqual([
      { contact: 'c1', name: 'a.txt' },
      { contact: 'c1', name: 'b.txt' },
    ]);
    await userEvent.click(screen.getByRole('button', { name: 'Remove plan 1.pdf' }));
    await userEvent.click(screen.getByRole('button', { name: 'Remove it' }));
    await waitFor(() => expect(screen.queryByRole('link', { name: 'plan 1.pdf' })).not.toBeInTheDocument());
  });

  it('say why one was refused', async () => {
    openPart(<Attachments about={about} />, {
      'GET /api/app/attachments': { attachments: [] },
      'POST /api/app/attachments': new Refused(413, { title: 'The file is larger than 20 MB.' }),
    });
    await userEvent.upload(await screen.findByLabelText('+ file'), chosen('a.txt'));
    expect(await screen.findByRole('alert')).toHaveTextContent('The file is larger than 20 MB.');
  });

  it('are not there where there is none and nothing can be added, and no more are taken than there is room for', async () => {
    openPart(
      <>
        <ReadOnly value>
          <Attachments about={{ contact: 'c2' }} />
        </ReadOnly>
        <Attachments about={about} />
      </>,
      {
        'GET /api/app/attachments': ({ query }: SentRequest) => ({
          attachments: query['contact'] === 'c1' ? Array.from({ length: MAX_ATTACHMENTS }, (_, n) => file(n)) : [],
        }),
      },
    );
    await screen.findByRole('link', { name: 'plan 1.pdf' });
    expect(screen.getAllByRole('region', { name: 'Files' })).toHaveLength(1);
    expect(screen.getByLabelText('+ file')).toBeDisabled();
  });
});
