import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { Tabs } from './tabs';

const TABS = [
  { id: 'one', words: 'One' },
  { id: 'two', words: 'Two' },
  { id: 'three', words: 'Three' },
] as const;

function Shown() {
  const [open, setOpen] = useState<'one' | 'two' | 'three'>('one');
  return (
    <>
      <button type="button">before</button>
      <Tabs label="Views" tabs={TABS} open={open} onOpen={setOpen} />
    </>
  );
}

describe('tabs', () => {
  it('are come to once, gone through by arrows, and round at either end', async () => {
    render(<Shown />);
    screen.getByRole('button', { name: 'before' }).focus();
    await userEvent.tab();
    const at = (name: string) => screen.getByRole('tab', { name });
    expect(at('One')).toHaveFocus();
    for (const [key, name] of [
      ['{ArrowRight}', 'Two'],
      ['{End}', 'Three'],
      ['{ArrowRight}', 'One'],
      ['{ArrowLeft}', 'Three'],
      ['{Home}', 'One'],
    ] as const) {
      await userEvent.keyboard(key);
      expect(at(name)).toHaveFocus();
      expect(at(name)).toHaveAttribute('aria-selected', 'true');
    }
    await userEvent.tab();
    expect(screen.getByRole('tablist')).not.toContainElement(document.activeElement as HTMLElement);
  });
});
