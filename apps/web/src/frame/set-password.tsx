import { PASSWORD_LENGTH } from '@eager-sieve/contracts';
import { useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { api } from '../app/api';
import { errorMessage, statusOf } from '../app/errors';
import { Loading } from '../ui/states';
import { Begin } from './begin';
import { DoorPage } from './door-page';

/** Where somebody who was invited, or whose password was reset, sets one. */
export default function SetPassword() {
  const { token = '' } = useParams();
  const { data: person, error } = api.useInvitationQuery({ token });
  const [accept, { isLoading, error: refused }] = api.useAcceptInvitationMutation();
  const [password, setPassword] = useState('');
  const navigate = useNavigate();
  const submit = async (): Promise<void> => {
    const result = await accept({ token, body: { password } });
    if (!result.error) await navigate('/', { replace: true });
  };
  if (error)
    return (
      <DoorPage>
        <p role="alert">
          {statusOf(error) === 404
            ? 'This link has been used, or it is older than seven days. Ask an admin for a new one.'
            : errorMessage(error)}
        </p>
      </DoorPage>
    );
  if (!person) return <Loading />;
  if (person.isFirst) return <Begin token={token} />;
  return (
    <DoorPage>
      <p className="mb-4">Welcome, {person.name}. Set the password by which you sign in from now on.</p>
      <form
        className="panel p-5"
        onSubmit={(event) => {
          event.preventDefault();
          void submit();
        }}
      >
        <label className="mb-1 block font-medium" htmlFor="email">
          Email
        </label>
        <input id="email" type="email" autoComplete="username" readOnly value={person.email} className="input input-sm mb-3 w-full" />
        <label className="mb-1 block font-medium" htmlFor="password">
          Password, at least {PASSWORD_LENGTH} characters
        </label>
        <input
          id="password"
          type="password"
          autoComplete="new-password"
          autoFocus
          required
          className="input input-sm mb-4 w-full"
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
        {refused && (
          <p role="alert" className="text-error mb-3 font-medium">
            {errorMessage(refused)}
          </p>
        )}
        <button className="btn btn-sm btn-primary w-full" disabled={isLoading || password === ''}>
          Set password and sign in
        </button>
      </form>
    </DoorPage>
  );
}
