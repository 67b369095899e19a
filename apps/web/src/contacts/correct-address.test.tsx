import { screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { openPart, Refused } from '../testing/page';
import { contactView } from '../testing/people';
import { Address } from './correct-address';

const anna = contactView({ email: 'anna@tets.example', name: 'Anna' });

describe('the address of a contact', () => {
  it('is corrected in a dialog that says what stays, and says so', async () => {
    const { asked } = openPart(<Address contact={anna} />, {
      'PUT /api/v1/contacts/id-1/address': contactView({ email: 'anna@test.example', formerAddresses: ['anna@tets.example'] }),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'correct …' }));
    const dialog = within(screen.getByRole('dialog', { name: 'Correct the email address' }));
    expect(dialog.getByText(/What comes under anna@tets.example goes on coming to them/)).toBeInTheDocument();
    expect(dialog.getByRole('button', { name: 'Correct' })).toBeDisabled();
    await userEvent.clear(dialog.getByLabelText('Email address'));
    await userEvent.type(dialog.getByLabelText('Email address'), 'anna@test.example{Enter}');
    await waitFor(() => expect(asked('PUT /api/v1/contacts/id-1/address').at(-1)?.body).toEqual({ email: 'anna@test.example' }));
    await waitFor(() => expect(screen.queryByRole('dialog')).not.toBeInTheDocument());
  });

  it('that somebody else has says so, and what was typed stays', async () => {
    openPart(<Address contact={anna} />, {
      'PUT /api/v1/contacts/id-1/address': new Refused(409, { title: 'Somebody else has this address.' }),
    });
    await userEvent.click(await screen.findByRole('button', { name: 'correct …' }));
    const input = screen.getByLabelText('Email address');
    await userEvent.clear(input);
    await userEvent.type(input, 'bo@test.example{Enter}');
    expect(await screen.findByRole('alert')).toHaveTextContent('Somebody else has this address.');
    expect(input).toHaveValue('bo@test.example');
  });

  it('says which there were before, and is added where there is none', async () => {
    openPart(
      <>
        <Address contact={contactView({ formerAddresses: ['old@test.example'] })} />
        <Address contact={contactView({ email: null })} />
      </>,
    );
    expect(await screen.findByText(/before: old@test.example/)).toBeInTheDocument();
    expect(await screen.findByRole('button', { name: 'add one …' })).toBeInTheDocument();
  });
});
