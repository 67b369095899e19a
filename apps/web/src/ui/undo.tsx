import { useEffect } from 'react';
import { type Stepped } from '../app/use-history';

const isTyping = (target: EventTarget | null): boolean =>
  (target instanceof HTMLInputElement && /^(text|search|email|number|url|tel)$/.test(target.type) && target.value !== '') ||
  (target instanceof HTMLTextAreaElement && target.value !== '');

/** Undoes what was changed on the page, and does it again: by buttons, Ctrl+Z and Ctrl+Shift+Z. Where text is being typed the keys are the input's own. */
export function Undo({ undo, redo }: Pick<Stepped<unknown>, 'undo' | 'redo'>) {
  useEffect(() => {
    const pressed = (event: KeyboardEvent): void => {
      if (!(event.ctrlKey || event.metaKey) || event.altKey || isTyping(event.target)) return;
      const key = event.key.toLowerCase();
      const step = key === 'z' ? (event.shiftKey ? redo : undo) : key === 'y' ? redo : undefined;
      if (!step) return;
      event.preventDefault();
      step();
    };
    window.addEventListener('keydown', pressed);
    return () => window.removeEventListener('keydown', pressed);
  }, [undo, redo]);
  if (!undo && !redo) return null;
  return (
    <span className="join">
      <button type="button" className="btn btn-sm btn-outline btn-primary join-item" disabled={!undo} title="Ctrl+Z" onClick={undo}>
        Undo
      </button>
      <button type="button" className="btn btn-sm btn-outline btn-primary join-item" disabled={!redo} title="Ctrl+Shift+Z" onClick={redo}>
        Redo
      </button>
    </span>
  );
}
