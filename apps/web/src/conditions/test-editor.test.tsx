import { operatorNames, takes, type Storage } from '@eager-sieve/core';
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { type Value } from '@eager-sieve/core';
import { firstValue } from './subjects';
import { TestEditor } from './test-editor';

const STORAGES: readonly Storage[] = ['text', 'number', 'day', 'instant', 'yesNo', 'choice', 'choices'];
const options = [
  { key: 'a', name: 'A' },
  { key: 'b', name: 'B' },
];
const every = STORAGES.flatMap((storage) => operatorNames(storage).map((op) => [storage, op] as const));

describe('the editor of a test', () => {
  it.each(every.filter(([storage, op]) => takes(storage, op) !== 'nothing'))(
    'of a %s offers an input for what “%s” takes',
    (storage, op) => {
      render(
        <TestEditor
          storage={storage}
          op={op}
          value={firstValue(storage, op, options)}
          options={storage.startsWith('choice') ? options : undefined}
          label="it"
          onChange={() => undefined}
        />,
      );
      const inputs = [
        ...screen.queryAllByRole('spinbutton'),
        ...screen.queryAllByRole('textbox'),
        ...screen.queryAllByRole('checkbox'),
        ...screen.queryAllByRole('combobox'),
        ...screen.queryAllByLabelText(/^it: (value|from|to)/),
      ];
      // One is the operator itself.
      expect(new Set(inputs).size).toBeGreaterThan(1);
    },
  );

  it('takes within how many days an anniversary comes', async () => {
    const changes: unknown[] = [];
    function Held() {
      const [value, setValue] = useState<Value | undefined>(firstValue('day', 'anniversary within the next'));
      return (
        <TestEditor
          storage="day"
          op="anniversary within the next"
          value={value}
          label="birthday"
          onChange={(op, next) => {
            changes.push([op, next]);
            setValue(next);
          }}
        />
      );
    }
    render(<Held />);
    const days = screen.getByLabelText('birthday: how many days');
    expect(days).toHaveValue(7);
    await userEvent.clear(days);
    await userEvent.type(days, '14');
    expect(changes.at(-1)).toEqual(['anniversary within the next', { n: 14 }]);
  });
});
