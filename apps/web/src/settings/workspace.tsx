import { useState } from 'react';
import { useMay } from '../app/use-may';
import { useSave } from '../app/use-save';
import { ColourInput, STANDARD_COLOUR } from '../ui/colour-input';
import { Labelled } from '../ui/labelled';
import { Rates } from './rates';
import { definitionSection } from './section';

/** What the workspace is called, where its days begin, and what other currencies are worth. */
export default definitionSection(function Workspace({ catalogue, mayWrite }) {
  return (
    <>
      <Basics
        key={catalogue.workspace.name + catalogue.zone + (catalogue.workspace.colour ?? '')}
        name={catalogue.workspace.name}
        timeZone={catalogue.zone}
        currency={catalogue.workspace.currency}
        colour={catalogue.workspace.colour}
        mayWrite={useMay('settings:write')}
      />
      <Rates catalogue={catalogue} mayWrite={mayWrite} />
    </>
  );
});

function Basics({
  name: savedName,
  timeZone,
  currency,
  colour: savedColour,
  mayWrite,
}: {
  name: string;
  timeZone: string;
  currency: string;
  colour: string | undefined;
  mayWrite: boolean;
}) {
  const [name, setName] = useState(savedName);
  const [zone, setZone] = useState(timeZone);
  const [colour, setColour] = useState(savedColour);
  const [save, saving] = useSave();
  const zones = Intl.supportedValuesOf('timeZone');
  return (
    <section>
      <h2 className="mb-2 text-[16px]">The workspace</h2>
      <form
        className="panel flex flex-wrap items-end gap-3 p-4"
        onSubmit={(event) => {
          event.preventDefault();
          void save({ name: name.trim(), timeZone: zone, colour: colour ?? null }, 'The workspace is saved.');
        }}
      >
        <Labelled label="Name">
          <input
            className="input input-sm w-64"
            value={name}
            required
            disabled={!mayWrite}
            onChange={(event) => setName(event.target.value)}
          />
        </Labelled>
        <Labelled label="Time zone: where a day begins">
          <select className="select select-sm w-auto" value={zone} disabled={!mayWrite} onChange={(event) => setZone(event.target.value)}>
            {(zones.includes(zone) ? zones : [zone, ...zones]).map((each) => (
              <option key={each}>{each}</option>
            ))}
          </select>
        </Labelled>
        <span className="quiet pb-1.5">money in {currency}</span>
        <div>
          <span className="quiet block text-[12.5px]">Colour of public pages</span>
          <ColourInput label="Colour of public pages" value={colour} standard={STANDARD_COLOUR} disabled={!mayWrite} onChange={setColour} />
        </div>
        {mayWrite && (
          <button
            className="btn btn-sm btn-outline btn-primary"
            disabled={saving || (name === savedName && zone === timeZone && colour === savedColour) || name.trim() === ''}
          >
            Keep changes
          </button>
        )}
      </form>
    </section>
  );
}
