import { Dialog } from '../ui/dialog';
import { KEYS, OUTLINE_KEYS } from './places';

export function KeysHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} title="Keys" onClose={onClose}>
      <Table keys={KEYS} />
      <h3 className="mt-4 mb-1 text-[14px]">In the outline of conditions</h3>
      <Table keys={OUTLINE_KEYS} />
      <button type="button" className="btn btn-sm btn-outline btn-primary mt-4" onClick={onClose}>
        Close
      </button>
    </Dialog>
  );
}

function Table({ keys }: { keys: readonly (readonly [string, string])[] }) {
  return (
    <dl className="grid grid-cols-[150px_1fr] gap-y-1.5">
      {keys.map(([key, does]) => (
        <div key={key} className="contents">
          <dt className="font-mono text-[12px]">{key}</dt>
          <dd>{does}</dd>
        </div>
      ))}
    </dl>
  );
}
