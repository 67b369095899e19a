import { zodResolver } from '@hookform/resolvers/zod';
import { useForm } from 'react-hook-form';
import { useNavigate, useSearchParams } from 'react-router';
import { useState } from 'react';
import { signInSchema, type Problem, type SignIn as SignInBody } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { DoorPage } from './door-page';

/** Only ever to a page of this application. */
const inside = (to: string | null): string => (to && /^\/(?!\/)/.test(to) ? to : '/');

export default function SignIn() {
  const [signIn, { isLoading, error }] = api.useSignInMutation();
  const { register, handleSubmit, formState } = useForm<SignInBody>({ resolver: zodResolver(signInSchema) });
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const problem = (error as { data?: Problem } | undefined)?.data?.code;
  const [needsCode, setNeedsCode] = useState(false);
  if (problem?.startsWith('sign-in.code') && !needsCode) setNeedsCode(true);
  const submit = async (body: SignInBody): Promise<void> => {
    const done = await signIn({ body });
    if (!done.error) await navigate(inside(search.get('to')), { replace: true });
  };
  return (
    <DoorPage>
      <form className="panel p-5" noValidate onSubmit={(event) => void handleSubmit(submit)(event)}>
        <label className="mb-1 block font-medium" htmlFor="email">
          Email
        </label>
        <input
          id="email"
          type="email"
          autoComplete="username"
          autoFocus
          className="input input-sm mb-3 w-full"
          {...register('email')}
          aria-invalid={Boolean(formState.errors.email)}
        />
        <label className="mb-1 block font-medium" htmlFor="password">
          Password
        </label>
        <input
          id="password"
          type="password"
          autoComplete="current-password"
          className="input input-sm mb-4 w-full"
          {...register('password')}
          aria-invalid={Boolean(formState.errors.password)}
        />
        {needsCode && (
          <>
            <label className="mb-1 block font-medium" htmlFor="code">
              The code that your phone shows, or a recovery code
            </label>
            <input
              id="code"
              autoComplete="one-time-code"
              autoFocus
              className="input input-sm mb-4 w-full font-mono"
              {...register('code', { setValueAs: (typed: string) => typed.trim() || undefined })}
              aria-invalid={Boolean(formState.errors.code)}
            />
          </>
        )}
        {error && problem !== 'sign-in.code' && (
          <p role="alert" className="text-error mb-3 font-medium">
            {errorMessage(error)}
          </p>
        )}
        <button className="btn btn-sm btn-primary w-full" disabled={isLoading}>
          {isLoading ? 'Signing in …' : 'Sign in'}
        </button>
      </form>
    </DoorPage>
  );
}
