import { zodResolver } from '@hookform/resolvers/zod';
import { invitePersonSchema, roleSchema, type Invited, type PersonView, type Role } from '@eager-sieve/contracts';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { type z } from 'zod';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { useMay } from '../app/use-may';
import { Dialog } from '../ui/dialog';
import { Labelled } from '../ui/labelled';
import { Menu, MenuItem } from '../ui/menu';
import { Loading, Wrong } from '../ui/states';
import { When } from '../ui/when';
import { Wide } from '../ui/wide';
import { PersonTeam, teamsOf } from './person-team';

type NewPerson = z.infer<typeof invitePersonSchema>;

const ROLES: Readonly<Record<Role, string>> = {
  admin: 'admin: everything',
  editor: 'editor: everything but settings',
  seller: 'seller: the contacts, deals and tasks that are theirs',
  viewer: 'viewer: looks, changes nothing',
};

/** Who may sign in, and what an admin does about it. */
export default function Persons() {
  const mayWrite = useMay('settings:write');
  const { data: persons, error, refetch } = api.usePersonsQuery();
  const [invited, setInvited] = useState<Invited | null>(null);
  return (
    <section>
      <h2 className="mb-2 text-[16px]">People with access</h2>
      {error ? (
        <Wrong error={error} again={() => void refetch()} />
      ) : !persons ? (
        <Loading />
      ) : (
        <Wide>
          <table className="table panel w-full min-w-[760px]">
            <thead>
              <tr className="quiet text-left text-[12px]">
                <th className="px-4">Name</th>
                <th>Email</th>
                <th>Role</th>
                <th>Team</th>
                <th>Second factor</th>
                <th>Last here</th>
                {mayWrite && <th />}
              </tr>
            </thead>
            <tbody>
              {persons.map((person) => (
                <Row key={person.id} person={person} teams={teamsOf(persons)} mayWrite={mayWrite} onInvited={setInvited} />
              ))}
            </tbody>
          </table>
        </Wide>
      )}
      {/* Once it has been used, or opens nothing any more, it need not stand here. */}
      {invited && persons?.some(({ id, state }) => id === invited.person.id && state === 'invited') && <Link invited={invited} />}
      {mayWrite && <Invite onInvited={setInvited} />}
    </section>
  );
}

const STATES: Readonly<Record<PersonView['state'], string | null>> = {
  invited: 'has no password yet',
  active: null,
  disabled: 'may not sign in',
};

/** What an admin can do about somebody that is asked about first. */
const QUESTIONS = {
  disable: {
    item: 'Keep from signing in …',
    title: (name: string) => `Keep ${name} from signing in?`,
    text: 'They are signed out everywhere at once. What they look after stays theirs, and you can let them in again.',
    button: 'Keep from signing in',
  },
  reset: {
    item: 'Reset the password …',
    title: (name: string) => `Reset the password of ${name}?`,
    text: 'They are signed out everywhere, and their password and second factor open nothing any more. You get a link by which they set a new password.',
    button: 'Reset the password',
  },
  remove: {
    item: 'Remove …',
    title: (name: string) => `Remove ${name}?`,
    text: 'They are signed out everywhere and have no access any more. What they did stays in the ledger, and contacts that they look after stay under their address until you give them to somebody else.',
    button: 'Remove',
  },
} as const;
type Question = keyof typeof QUESTIONS;

interface RowProps {
  readonly person: PersonView;
  readonly teams: readonly string[];
  readonly mayWrite: boolean;
  readonly onInvited: (invited: Invited) => void;
}

function Row({ person, teams, mayWrite, onInvited }: RowProps) {
  const [asked, setAsked] = useState<Question | null>(null);
  const [change] = api.useChangePersonMutation();
  const [reset] = api.useResetPersonMutation();
  const [remove] = api.useRemovePersonMutation();
  const dispatch = useAppDispatch();
  const tell = (result: { error?: unknown }, text: string): boolean => {
    dispatch(told(result.error ? { kind: 'wrong', text: errorMessage(result.error) } : { kind: 'done', text }));
    return !result.error;
  };
  const { id, name } = person;
  const isSelf = api.useSessionQuery().data?.person.id === id;
  const setRole = async (role: Role): Promise<void> => {
    tell(await change({ id, body: { role } }), `${name} is ${role} now.`);
  };
  const setTeam = async (team: string): Promise<void> => {
    tell(await change({ id, body: { team } }), team ? `${name} is in the team ${team} now.` : `${name} is in no team now.`);
  };
  const setSeesTeam = async (seesTeam: boolean): Promise<void> => {
    tell(
      await change({ id, body: { seesTeam } }),
      seesTeam ? `${name} sees the contacts of the whole team now.` : `${name} sees only their own contacts now.`,
    );
  };
  const letIn = async (): Promise<void> => {
    tell(await change({ id, body: { disabled: false } }), `${name} may sign in again.`);
  };
  const act = async (what: Question): Promise<void> => {
    setAsked(null);
    if (what === 'disable') tell(await change({ id, body: { disabled: true } }), `${name} may not sign in any more.`);
    else if (what === 'remove') tell(await remove({ id }), `${name} has no access any more.`);
    else {
      const result = await reset({ id });
      if (tell(result, `The password of ${name} is reset.`) && result.data) onInvited(result.data);
    }
  };
  const question = asked && QUESTIONS[asked];
  return (
    <tr className="border-base-300/60 border-t">
      <td className="max-w-52 truncate px-4 py-1 font-medium" title={name}>
        {name}
        {STATES[person.state] && <span className="quiet block text-[12.5px] font-normal">{STATES[person.state]}</span>}
      </td>
      <td className="max-w-64 truncate" title={person.email}>
        {person.email}
      </td>
      <td>
        {mayWrite ? (
          <select
            className="select select-sm w-auto"
            aria-label={`Role of ${name}`}
            value={person.role}
            onChange={(event) => void setRole(event.target.value as Role)}
          >
            {roleSchema.options.map((role) => (
              <option key={role}>{role}</option>
            ))}
          </select>
        ) : (
          person.role
        )}
      </td>
      <td>
        <PersonTeam {...{ person, teams, mayWrite }} onTeam={(team) => void setTeam(team)} onSees={(sees) => void setSeesTeam(sees)} />
      </td>
      <td className="quiet">{person.secondFactor ? 'on' : 'off'}</td>
      <td className="quiet">{person.seen ? <When at={person.seen} /> : '—'}</td>
      {mayWrite && (
        <td className="pr-3 text-right">
          <Menu label={`More for ${name}`} small>
            {person.state === 'disabled' ? (
              <MenuItem onClick={() => void letIn()}>Let in again</MenuItem>
            ) : (
              <MenuItem onClick={() => setAsked('disable')}>{QUESTIONS.disable.item}</MenuItem>
            )}
            {!isSelf && <MenuItem onClick={() => setAsked('reset')}>{QUESTIONS.reset.item}</MenuItem>}
            <MenuItem onClick={() => setAsked('remove')}>{QUESTIONS.remove.item}</MenuItem>
          </Menu>
          <Dialog open={question !== null} title={question?.title(name) ?? ''} onClose={() => setAsked(null)}>
            <p>{question?.text}</p>
            <div className="mt-4 flex gap-2">
              <button type="button" className="btn btn-sm btn-error" onClick={() => asked && void act(asked)}>
                {question?.button}
              </button>
              <button type="button" className="btn btn-sm btn-outline btn-primary" onClick={() => setAsked(null)}>
                Leave it
              </button>
            </div>
          </Dialog>
        </td>
      )}
    </tr>
  );
}

/** The link by which somebody sets their password. It is shown this once, and passed on by hand. */
function Link({ invited: { person, token } }: { invited: Invited }) {
  return (
    <p role="status" className="panel border-accent bg-glow mt-2 p-3">
      Send this link to {person.name}. By it they set their password, once, within seven days; it is shown only now:{' '}
      <code className="font-mono text-[12.5px] break-all select-all">{`${location.origin}/welcome/${token}`}</code>
    </p>
  );
}

function Invite({ onInvited }: { onInvited: (invited: Invited) => void }) {
  const [invite, { isLoading, error }] = api.useInvitePersonMutation();
  const { register, handleSubmit, formState, reset } = useForm<NewPerson>({
    resolver: zodResolver(invitePersonSchema),
    defaultValues: { role: 'viewer' },
  });
  const submit = async (person: NewPerson): Promise<void> => {
    const result = await invite({ body: person });
    if (!result.data) return;
    onInvited(result.data);
    reset();
  };
  const { errors } = formState;
  return (
    <form className="mt-2 flex flex-wrap items-start gap-3" noValidate onSubmit={(event) => void handleSubmit(submit)(event)}>
      <Labelled label="Name">
        <input className="input input-sm w-56" autoComplete="off" aria-invalid={Boolean(errors.name)} {...register('name')} />
        {errors.name && <span className="text-error block text-[12.5px]">{errors.name.message}</span>}
      </Labelled>
      <Labelled label="Email">
        <input
          className="input input-sm w-56"
          type="email"
          autoComplete="off"
          aria-invalid={Boolean(errors.email)}
          {...register('email')}
        />
        {errors.email && <span className="text-error block text-[12.5px]">{errors.email.message}</span>}
      </Labelled>
      <Labelled label="Role">
        <select className="select select-sm w-auto" {...register('role')}>
          {roleSchema.options.map((role) => (
            <option key={role} value={role}>
              {ROLES[role]}
            </option>
          ))}
        </select>
      </Labelled>
      <button className="btn btn-sm btn-outline btn-primary mt-4.5" disabled={isLoading}>
        Invite
      </button>
      {error && (
        <p role="alert" className="text-error basis-full">
          {errorMessage(error)}
        </p>
      )}
    </form>
  );
}
