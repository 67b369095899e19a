import { type Catalogue } from '@eager-sieve/core';
import { type ComponentType } from 'react';
import { useCatalogue } from '../app/use-catalogue';
import { useMay } from '../app/use-may';
import { ReadOnly } from '../ui/offer';
import { Loading } from '../ui/states';

export interface SectionProps {
  readonly catalogue: Catalogue;
  readonly mayWrite: boolean;
}

/** A section of the settings that shows definitions, to read for those who may not change them. */
export function definitionSection(...Parts: readonly ComponentType<SectionProps>[]) {
  return function Section() {
    const catalogue = useCatalogue();
    const mayWrite = useMay('definitions:write');
    if (!catalogue) return <Loading />;
    return (
      <ReadOnly value={!mayWrite}>
        {Parts.map((Part, index) => (
          <Part key={index} catalogue={catalogue} mayWrite={mayWrite} />
        ))}
      </ReadOnly>
    );
  };
}
