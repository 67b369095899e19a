import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage } from '../testing/page';

const mail = (id: number, to: string) => ({
  id,
  to,
  subject: `${id} tasks for today`,
  text: `Good morning, ${to}.`,
  at: '2026-05-01T05:00:00Z',
});
const room = { 'GET /api/app/post-room': [], 'GET /api/app/pause': { isPaused: false }, 'GET /api/app/sends': [] };

describe('mail to colleagues', () => {
  it('stands beside that to contacts, each to be read', async () => {
    openPage('/campaigns/post-room', {
      ...room,
      'GET /api/app/post-room/staff': [mail(2, 'nell@test.example'), mail(1, 'omar@test.example')],
    });
    await userEvent.click(await screen.findByRole('tab', { name: 'To colleagues' }));
    expect(await screen.findByText('Good morning, nell@test.example.')).toBeInTheDocument();
    await userEvent.click(within(screen.getByRole('list', { name: 'Mails to colleagues' })).getByRole('button', { name: /omar/ }));
    expect(screen.getByText('Good morning, omar@test.example.')).toBeInTheDocument();
  });

  it('says where there is none', async () => {
    openPage('/campaigns/post-room', { ...room, 'GET /api/app/post-room/staff': [] });
    await userEvent.click(await screen.findByRole('tab', { name: 'To colleagues' }));
    expect(await screen.findByRole('heading', { name: 'Nothing has gone out to colleagues' })).toBeInTheDocument();
  });
});
