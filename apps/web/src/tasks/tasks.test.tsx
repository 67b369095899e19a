import { type NoticesAnswer, type TasksAnswer, type TaskView } from '@eager-sieve/contracts';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPage, Refused, type SentRequest } from '../testing/page';

const NO_COMPANY = { company: null, companyName: null };
const task = (id: number, more: Partial<TaskView> = {}): TaskView => ({
  id,
  title: `Call ${id}`,
  due: '2026-05-01T21:59:59.999Z',
  for: 'wren@test.example',
  done: null,
  doneBy: null,
  contact: `c${id}`,
  contactName: `Anna ${id}`,
  ...NO_COMPANY,
  ...more,
});
const list = (tasks: readonly TaskView[], more: Partial<TasksAnswer> = {}): TasksAnswer => ({
  tasks: [...tasks],
  all: tasks.length,
  late: 0,
  after: null,
  ...more,
});

describe('what waits for the one who is signed in', () => {
  it('stands on Today: late ones say so, and ticking one sends that it is done', async () => {
    const { asked } = openPage('/', {
      'GET /api/v1/tasks': list([task(1), task(2, { for: null, due: '2999-01-01T00:00:00Z' })], { all: 7, late: 1 }),
      'PUT /api/v1/tasks/:id': task(1, { done: '2026-05-02T08:00:00Z' }),
    });
    const mine = within(await screen.findByRole('region', { name: 'Your tasks' }));
    expect(mine.getByText('late, was due')).toBeInTheDocument();
    expect(mine.getByText(/, 1 late/)).toBeInTheDocument();
    expect(mine.getByText('2 of 7 are shown.')).toBeInTheDocument();
    expect(mine.getAllByRole('listitem')[1]).toHaveTextContent('for anyone');
    expect(asked('GET /api/v1/tasks')[0]?.query).toMatchObject({ for: 'wren@test.example' });
    await userEvent.click(mine.getByRole('checkbox', { name: 'Call 1: done' }));
    await waitFor(() => expect(asked('PUT /api/v1/tasks/:id')[0]?.body).toEqual({ done: true }));
  });

  it('is told what rules said until it is seen, one by one or all', async () => {
    let notices: NoticesAnswer = {
      notices: [
        { id: 8, text: 'They asked', at: '2026-05-01T08:00:00Z', contact: 'c8', contactName: 'Bo', ...NO_COMPANY, forAnyone: true },
        { id: 7, text: 'Have a look', at: '2026-05-01T07:00:00Z', contact: 'c7', contactName: 'Cia', ...NO_COMPANY, forAnyone: false },
      ],
      all: 2,
    };
    const { asked } = openPage('/', {
      'GET /api/app/notices': () => notices,
      'PUT /api/app/notices/8/seen': ({ query }: SentRequest) => {
        notices = query['earlier'] ? { notices: [], all: 0 } : { notices: notices.notices.slice(1), all: 1 };
        return undefined;
      },
    });
    const told = within(await screen.findByRole('region', { name: 'Told to you' }));
    expect(await told.findByText(/for anyone: nobody minds them/)).toBeInTheDocument();
    await userEvent.click(told.getByRole('button', { name: 'all seen' }));
    expect(await told.findByText(/No rule has told you anything/)).toBeInTheDocument();
    expect(asked('PUT /api/app/notices/8/seen')).toHaveLength(1);
  });
});

describe('the page of tasks', () => {
  it('shows everyone’s or done ones when asked, and says how many there are', async () => {
    const { asked } = openPage('/tasks', {
      'GET /api/v1/tasks': ({ query }: SentRequest) =>
        query['state'] === 'done'
          ? list([])
          : query['after']
            ? list([task(2)], { all: 2 })
            : list([task(1, { for: query['for'] ? 'wren@test.example' : 'ines@test.example' })], { all: 2, late: 2, after: 'next' }),
    });
    expect(await screen.findByText('2 tasks of these are late.')).toBeInTheDocument();
    await userEvent.click(screen.getByRole('button', { name: '1 of 2 are shown: more' }));
    expect(await screen.findByText('Anna 2')).toBeInTheDocument();
    await userEvent.selectOptions(screen.getByLabelText('Whose'), 'everyone’s');
    expect(await screen.findByText(/for ines@test.example/)).toBeInTheDocument();
    await userEvent.selectOptions(screen.getByLabelText('Open or done'), 'done');
    expect(await screen.findByText('Nothing has been done yet')).toBeInTheDocument();
    expect(asked('GET /api/v1/tasks').at(-1)?.query).toMatchObject({ state: 'done' });
  });

  it('changes what, when and for whom, and keeps what was written when the server refuses', async () => {
    let refuse = true;
    const { asked } = openPage('/tasks', {
      'GET /api/v1/tasks': list([task(1)]),
      'PUT /api/v1/tasks/:id': () => (refuse ? new Refused(422, { title: 'That cannot be.' }) : task(1)),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'change' }));
    const title = screen.getByLabelText('What is to be done');
    await userEvent.clear(title);
    await userEvent.type(title, 'Write to them');
    await userEvent.clear(screen.getByLabelText('Who is to do it'));
    await userEvent.click(screen.getByRole('button', { name: 'Keep' }));
    expect(await screen.findByText('That cannot be.')).toBeInTheDocument();
    expect(title).toHaveValue('Write to them');
    refuse = false;
    await userEvent.click(screen.getByRole('button', { name: 'Keep' }));
    await waitFor(() => expect(screen.queryByLabelText('What is to be done')).not.toBeInTheDocument());
    expect(asked('PUT /api/v1/tasks/:id').at(-1)?.body).toEqual({ title: 'Write to them', due: '2026-05-01', for: null });
  });

  it('can be read, and no more, by whoever may not write; whoever may not see contacts has none on Today', async () => {
    openPage('/tasks', { 'GET /api/v1/tasks': list([task(1)]) }, { may: ['definitions:read', 'contacts:read'] });
    expect(await screen.findByRole('checkbox', { name: 'Call 1: done' })).toBeDisabled();
    expect(screen.queryByRole('button', { name: 'change' })).not.toBeInTheDocument();
    cleanup();
    const { asked } = openPage('/', {}, { may: ['definitions:read', 'audiences:read'] });
    await screen.findByRole('list', { name: 'What flowed through' });
    expect(asked('GET /api/v1/tasks')).toEqual([]);
    expect(screen.queryByRole('region', { name: 'Your tasks' })).not.toBeInTheDocument();
  });

  it('says what happened where the tasks do not come', async () => {
    openPage('/tasks', { 'GET /api/v1/tasks': new Refused(500, { title: 'Not now.' }) });
    expect(await screen.findByRole('alert')).toHaveTextContent('Not now.');
  });
});
