import { zodResolver } from '@hookform/resolvers/zod';
import { useForm } from 'react-hook-form';
import { newPersonSchema, roleSchema } from '@eager-sieve/contracts';
import { type z } from 'zod';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { Labelled } from '../ui/labelled';

type NewPerson = z.infer<typeof newPersonSchema>;

export function Persons({ mayWrite }: { mayWrite: boolean }) {
  const { data: persons = [] } = api.usePersonsQuery();
  const [add, { isLoading, error }] = api.useAddPersonMutation();
  const { register, handleSubmit, formState, reset } = useForm<NewPerson>({
    resolver: zodResolver(newPersonSchema),
    defaultValues: { role: 'viewer' },
  });
  const submit = async (person: NewPerson): Promise<void> => {
    const result = await add({ body: person });
    if (!result.error) reset();
  };
  return (
    <section>
      <h2 className="mb-2 text-[16px]">People with access</h2>
      <table className="table panel w-full">
        <tbody>
          {persons.map((person) => (
            <tr key={person.id} className="border-base-300/60 border-t first:border-t-0">
              <td className="px-4 py-1 font-medium">{person.name}</td>
              <td>{person.email}</td>
              <td className="quiet pr-4">{person.role}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {mayWrite && (
        <form className="mt-2 flex flex-wrap items-start gap-3" noValidate onSubmit={(event) => void handleSubmit(submit)(event)}>
          {(
            [
              ['name', 'Name', 'text'],
              ['email', 'Email', 'email'],
              ['password', 'First password, at least 12 characters', 'password'],
            ] as const
          ).map(([field, label, type]) => (
            <label key={field}>
              <span className="quiet block text-[12.5px]">{label}</span>
              <input
                className="input input-sm w-56"
                type={type}
                autoComplete="off"
                aria-invalid={Boolean(formState.errors[field])}
                {...register(field)}
              />
              {formState.errors[field] && <span className="text-error block text-[12.5px]">{formState.errors[field].message}</span>}
            </label>
          ))}
          <Labelled label="Role">
            <select className="select select-sm w-auto" {...register('role')}>
              {roleSchema.options.map((role) => (
                <option key={role}>{role}</option>
              ))}
            </select>
          </Labelled>
          <button className="btn btn-sm btn-outline btn-primary mt-4.5" disabled={isLoading}>
            Give access
          </button>
          {error && (
            <p role="alert" className="text-error basis-full">
              {errorMessage(error)}
            </p>
          )}
        </form>
      )}
    </section>
  );
}
