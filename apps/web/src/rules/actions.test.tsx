import { actionWords, type RuleAction, type RuleBody } from '@eager-sieve/core';
import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { catalogue, definition, signalType } from '../testing/catalogue';
import { catalogueView, openPart } from '../testing/page';
import { Persons } from '../ui/person-input';
import { Actions } from './actions';
import { SignalDetails } from './signal-details';
import { When } from './when';

let latest: readonly RuleAction[];
function Holder({ initial }: { initial: readonly RuleAction[] }) {
  const [actions, setActions] = useState(initial);
  return (
    <SignalDetails value={[['amount', 'amount']]}>
      <Actions
        actions={actions}
        catalogue={catalogue}
        onChange={(next) => {
          latest = next;
          setActions(next);
        }}
      />
    </SignalDetails>
  );
}
const shown = (): string => latest.map((action) => actionWords(action, catalogue)).join('; ');

describe('picking what a rule does', () => {
  it.each([
    ['set field', 'set years at the wheel to '],
    ['increase field', 'increase years at the wheel by 1'],
    ['put on list', 'put on the list Guests'],
    ['give points', 'give 5 points of Keenness, kept for ever'],
    ['set stage', 'set the stage to heard of us'],
    ['set field of the company', "set the company's seats to "],
    ['assign owner', 'assign owner by the desk'],
    ['make task', 'make the task “Get in touch”, due today'],
    ['notify', 'notify whoever minds the contact: “Have a look at this contact”'],
    ['run bundle', 'run Greet'],
  ])('begins “%s” with something that works', async (kind, words) => {
    openPart(<Holder initial={[{ do: 'add tag', tag: 3 }]} />);
    await userEvent.selectOptions(screen.getByLabelText('What action 1 does'), kind);
    expect(shown()).toBe(words);
  });

  it('makes the tag that it gives, where that is not there yet', async () => {
    openPart(<Holder initial={[{ do: 'notify', text: 'Look' }]} />, {
      'GET /api/app/catalogue': catalogueView([definition(310, 'tag', 'glaze.salt', 'salt', { family: 2 })]),
      'PUT /api/v1/definitions': { made: [], changed: [], kept: [], retired: [], refused: [], epoch: 2, rehearsed: false },
    });
    await userEvent.selectOptions(screen.getByLabelText('What action 1 does'), 'add a new tag …');
    await userEvent.type(await screen.findByLabelText('New tag: who has it?'), 'salt');
    await userEvent.click(screen.getByRole('button', { name: 'Add tag', hidden: true }));
    await waitFor(() => expect(latest).toEqual([{ do: 'add tag', tag: 310 }]));
  });

  it('takes a value from the signal, and an option by its name', async () => {
    openPart(<Holder initial={[{ do: 'add tag', tag: 12 }]} />);
    await userEvent.selectOptions(screen.getByLabelText('Where the value of action 1 is from'), "the signal's");
    expect(shown()).toBe("add the tag glaze.litres valued the signal's amount");
    await userEvent.click(screen.getByRole('button', { name: '+ action' }));
    await userEvent.selectOptions(screen.getByLabelText('What action 2 does'), 'set field');
    await userEvent.selectOptions(screen.getByLabelText('Field of action 2'), 'what stops them');
    await userEvent.selectOptions(screen.getByLabelText('Value of action 2'), 'the price');
    expect(shown()).toContain('set what stops them to the price');
    await userEvent.click(screen.getAllByRole('button', { name: 'remove' })[0] as HTMLElement);
    expect(latest).toHaveLength(1);
  });

  it('moves actions by keys and by hand, and sets several choices at once', async () => {
    openPart(
      <Holder
        initial={[
          { do: 'add tag', tag: 3 },
          { do: 'set field', field: 21, value: ['throwing'] },
        ]}
      />,
    );
    await userEvent.click(screen.getByLabelText('hand-building'));
    expect(latest[1]).toEqual({ do: 'set field', field: 21, value: ['throwing', 'hand-building'] });
    await userEvent.click(screen.getByRole('button', { name: 'earlier' }));
    expect(latest.map((action) => action.do)).toEqual(['set field', 'add tag']);
    screen.getByLabelText('What action 1 does').focus();
    await userEvent.keyboard('{Alt>}{ArrowDown}{/Alt}');
    expect(latest.map((action) => action.do)).toEqual(['add tag', 'set field']);
  });

  it('keeps points for as long as is said', async () => {
    openPart(<Holder initial={[{ do: 'give points', scorecard: 7, points: 5, keeps: 'forever' }]} />);
    await userEvent.selectOptions(screen.getByLabelText('How long its points stay'), 'halved at midnight, every');
    expect(shown()).toBe('give 5 points of Keenness, halved every 90 days at midnight');
  });
});

describe('naming who is to look after something', () => {
  const there = [
    { email: 'ines@test.example', name: 'Ines', team: null },
    { email: 'olle@test.example', name: 'Olle', team: null },
  ];
  const shownTo = (action: RuleAction): void => {
    openPart(
      <Persons value={there}>
        <Holder initial={[action]} />
      </Persons>,
    );
  };

  it('begins with somebody who signs in, and says where nobody does by what is typed', async () => {
    shownTo({ do: 'assign owner', routing: 19 });
    await userEvent.selectOptions(screen.getByLabelText('Owner of action 1'), 'this person');
    expect(shown()).toBe('assign owner ines@test.example');
    const input = screen.getByLabelText('Sign-in address of action 1');
    await userEvent.clear(input);
    await userEvent.type(input, 'OLE@test.example{Enter}');
    expect(shown()).toBe('assign owner ole@test.example');
    expect(screen.getByText('nobody signs in by ole@test.example')).toBeInTheDocument();
    await userEvent.clear(input);
    await userEvent.type(input, 'olle@test.example');
    expect(shown()).toBe('assign owner olle@test.example');
    expect(screen.queryByText(/nobody signs in/)).not.toBeInTheDocument();
  });

  it('leaves it to whoever minds the contact where nobody is named', async () => {
    shownTo({ do: 'notify', text: 'Look', to: 'ines@test.example' });
    await userEvent.clear(screen.getByLabelText('Person of action 1'));
    await userEvent.tab();
    expect(shown()).toBe('notify whoever minds the contact: “Look”');
  });
});

describe('picking what sets a rule off', () => {
  it('can be a date, before or after it, once or every year', async () => {
    let rule: RuleBody = {
      of: 'contact',
      when: { kind: 'signal', type: signalType('order.placed') },
      then: [{ do: 'add tag', tag: 3 }],
      howOften: {},
      beginsWith: 'from now on',
      maxAgeDays: 7,
      position: 1,
      on: false,
    };
    function Rule() {
      const [body, setBody] = useState(rule);
      return (
        <When
          rule={body}
          catalogue={catalogue}
          onChange={(next) => {
            rule = next;
            setBody(next);
          }}
        />
      );
    }
    openPart(<Rule />);
    await userEvent.selectOptions(screen.getByLabelText('What sets it off'), '… a date comes');
    expect(rule.when).toEqual({ kind: 'date', field: 6, days: 0, yearly: false, hour: 9 });
    await userEvent.selectOptions(screen.getByLabelText('Before or after'), 'days before');
    await userEvent.selectOptions(screen.getByLabelText('Once or yearly'), 'every year');
    await userEvent.selectOptions(screen.getByLabelText('Which date'), 'tag glaze.since');
    expect(rule.when).toEqual({ kind: 'date', tag: 11, days: -1, yearly: true, hour: 9 });
    await userEvent.selectOptions(screen.getByLabelText('What sets it off'), '… conditions become true');
    expect(rule.when).toMatchObject({ kind: 'becomes' });
  });
});
