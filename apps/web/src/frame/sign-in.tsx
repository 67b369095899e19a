import { zodResolver } from '@hookform/resolvers/zod';
import { useForm } from 'react-hook-form';
import { useNavigate, useSearchParams } from 'react-router';
import { signInSchema, type SignIn as SignInBody } from '@eager-sieve/contracts';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';

/** Only ever to a page of this application. */
const inside = (to: string | null): string => (to && /^\/(?!\/)/.test(to) ? to : '/');

export default function SignIn() {
  const [signIn, { isLoading, error }] = api.useSignInMutation();
  const { register, handleSubmit, formState } = useForm<SignInBody>({ resolver: zodResolver(signInSchema) });
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const submit = async (body: SignInBody): Promise<void> => {
    const done = await signIn({ body });
    if (!done.error) await navigate(inside(search.get('to')), { replace: true });
  };
  return (
    <main className="mx-auto mt-[14vh] w-[360px] max-w-[92vw]">
      <div aria-hidden className="mb-4 w-24">
        <div className="mesh-line" />
        <div className="mesh-line mx-2.5" />
        <div className="mesh-line mx-5" />
      </div>
      <h1 className="text-[26px]">Eager Sieve</h1>
      <p className="quiet mb-5">Lists that keep themselves right, and say why.</p>
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
        {error && (
          <p role="alert" className="text-error mb-3 font-medium">
            {errorMessage(error)}
          </p>
        )}
        <button className="btn btn-sm btn-primary w-full" disabled={isLoading}>
          {isLoading ? 'Signing in …' : 'Sign in'}
        </button>
      </form>
    </main>
  );
}
