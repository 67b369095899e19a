import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useEffect, useState } from 'react';
import { ChoiceList } from './choice-list';

interface Made {
  readonly key: string;
  readonly name: string;
  readonly add?: readonly string[];
}
const kept: { now: readonly Made[] } = { now: [] };

function Kept({ first }: { first: readonly Made[] }) {
  const [choices, setChoices] = useState(first);
  useEffect(() => {
    kept.now = choices;
  }, [choices]);
  return (
    <ChoiceList
      label="Choices"
      choices={choices}
      onChange={setChoices}
      noteOf={(choice) => (choice.add ? `adds ${choice.add.join()}` : '')}
    />
  );
}
const input = (n: number): HTMLElement => screen.getByLabelText(`Choices, choice ${n}`);

describe('a list of choices', () => {
  it('keeps the key of a choice, and what it does, however it is renamed', async () => {
    render(<Kept first={[{ key: 'price', name: 'Price', add: ['snag.price'] }]} />);
    await userEvent.clear(input(1));
    await userEvent.tab();
    await userEvent.type(input(1), 'It costs too much');
    await userEvent.tab();
    expect(kept.now).toEqual([{ key: 'price', name: 'It costs too much', add: ['snag.price'] }]);
    expect(screen.getByText('adds snag.price')).toBeInTheDocument();
  });

  it('makes the next one by Enter, with the focus in it, and its key from its words', async () => {
    render(<Kept first={[{ key: 'price', name: 'Price' }]} />);
    // However fast the next letter comes.
    await userEvent.setup({ delay: null }).type(input(1), '{Enter}');
    expect(input(2)).toHaveFocus();
    await userEvent.keyboard('No room{Tab}');
    expect(kept.now).toEqual([
      { key: 'price', name: 'Price' },
      { key: 'no-room', name: 'No room' },
    ]);
  });

  it('moves them by Alt and an arrow, and takes one away, with their keys', async () => {
    render(
      <Kept
        first={[
          { key: 'a', name: 'A' },
          { key: 'b', name: 'B' },
        ]}
      />,
    );
    await userEvent.type(input(2), '{Alt>}{ArrowUp}{/Alt}');
    expect(kept.now.map((each) => each.key)).toEqual(['b', 'a']);
    await userEvent.click(screen.getByRole('button', { name: 'Remove choice B' }));
    expect(kept.now.map((each) => each.key)).toEqual(['a']);
  });
});
