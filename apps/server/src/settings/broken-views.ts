import { type Compiled } from '@eager-sieve/core';
import { type BrokenView } from '@eager-sieve/contracts';

/** Everything that stands still, why, and what has to be mended. */
export const brokenViews = ({ broken, catalogue, whyBroken }: Compiled): BrokenView[] =>
  broken.flatMap(({ id, roots }) => {
    const view = (of: number) => {
      const definition = catalogue.any(of);
      return definition ? [{ kind: definition.kind, key: definition.key, name: definition.name }] : [];
    };
    return view(id).map((each) => ({ id, ...each, because: whyBroken.get(id) ?? '', roots: roots.flatMap(view) }));
  });
