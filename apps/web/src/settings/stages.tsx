import { Ladder } from './ladder';
import { Pipelines } from './pipelines';
import { definitionSection } from './section';

/** The stages of contacts, and those of deals. */
export default definitionSection(Ladder, Pipelines);
