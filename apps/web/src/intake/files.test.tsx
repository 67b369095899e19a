import { capabilities, type FileView } from '@eager-sieve/contracts';
import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, Refused } from '../testing/page';

const PLAN: FileView = {
  id: 3,
  name: 'kiln plan.pdf',
  url: 'https://sieve.example/d/kiln-plan-1a2b3c',
  bytes: 2_000,
  downloads: 4,
  madeAt: '2026-05-01T10:00:00Z',
  by: 'wren@fernhollow.example',
};
const FILES = 'GET /api/app/files';
const KEEP = 'POST /api/app/files';

describe('files to download', () => {
  it('are added, and their links copied', async () => {
    const user = userEvent.setup();
    const { asked } = openPage('/intake/files', { [FILES]: [PLAN], [KEEP]: PLAN, 'DELETE /api/app/files/3': () => undefined });
    expect(await screen.findByText('4 downloads')).toBeInTheDocument();
    await user.upload(screen.getByLabelText('Add a file'), new File(['x'], 'glazes.pdf'));
    expect(asked(KEEP)[0]?.query).toEqual({ name: 'glazes.pdf' });
    await user.click(screen.getByRole('button', { name: 'Copy the link of kiln plan.pdf' }));
    expect(await navigator.clipboard.readText()).toBe(PLAN.url);
    await user.click(screen.getByRole('button', { name: 'Remove kiln plan.pdf' }));
    expect(asked('DELETE /api/app/files/3')).toEqual([]);
    await user.click(screen.getByRole('button', { name: 'Remove it' }));
    expect(asked('DELETE /api/app/files/3')).toHaveLength(1);
  });

  it('say where there is none, and why one is not kept', async () => {
    openPage('/intake/files', { [FILES]: [], [KEEP]: new Refused(413, { title: 'The file is larger than 20 MB.' }) });
    expect(await screen.findByText('No file yet')).toBeInTheDocument();
    await userEvent.upload(screen.getByLabelText('Add a file'), new File(['x'], 'big.bin'));
    expect(await screen.findByRole('alert')).toHaveTextContent('The file is larger than 20 MB.');
  });

  it('are only looked at by who may not change things', async () => {
    openPage('/intake/files', { [FILES]: [PLAN] }, { may: capabilities.filter((each) => each !== 'definitions:write') });
    expect(await screen.findByText('kiln plan.pdf')).toBeInTheDocument();
    expect(screen.queryByLabelText('Add a file')).not.toBeInTheDocument();
    expect(screen.queryByRole('button', { name: 'Remove kiln plan.pdf' })).not.toBeInTheDocument();
  });
});
