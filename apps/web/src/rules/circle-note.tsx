import { Link } from 'react-router';
import { api } from '../app/api';
import { errorMessage } from '../app/errors';
import { told } from '../app/notices';
import { useAppDispatch } from '../app/store';
import { subjects } from '../ui/number';
import { When } from '../ui/when';

/** Said at the head of a rule that went in a circle with others: for whom it is held back, and the way on. */
export function CircleNote({ ruleKey, mayWrite }: { ruleKey: string; mayWrite: boolean }) {
  const { data } = api.useCircleQuery({ key: ruleKey });
  const [letOn, { isLoading }] = api.useLetOnMutation();
  const dispatch = useAppDispatch();
  const circle = data?.circle;
  if (!circle) return null;
  const go = async (): Promise<void> => {
    const result = await letOn({ key: ruleKey });
    dispatch(
      told(
        result.error
          ? { kind: 'wrong', text: errorMessage(result.error) }
          : { kind: 'done', text: `${circle.name} may run again for everyone.` },
      ),
    );
  };
  return (
    <div role="alert" className="panel border-error mb-3 p-3.5">
      <p className="text-error font-semibold">This rule went in a circle and is held back for {subjects(circle.of, circle.held)}.</p>
      <p className="mt-0.5">
        {circle.with.length === 0 ? 'It sets itself off. ' : 'It went round with '}
        {circle.with.map((other, index) => (
          <span key={other.key}>
            {index > 0 && ', '}
            <Link className="leads" to={`/rules/${other.key}`}>
              {other.name}
            </Link>
          </span>
        ))}
        {circle.with.length > 0 && ', each setting off the next. '}
        The last time was <When at={circle.since} />. What it did stands; change one of them, then let it run again.
      </p>
      {mayWrite && (
        <button type="button" className="btn btn-xs mt-2" disabled={isLoading} onClick={() => void go()}>
          Let it run again
        </button>
      )}
    </div>
  );
}
