import { FormVisit } from './form-visit';
import { Hook, HookDeliveryRow } from './hook';
import { ImportRun } from './import-run';
import { ApiKey, Invitation, Person, Session } from './people';
import { SavedViewRow } from './saved-view';
import { Send, SendRecipient } from './send';
import { SweepRun } from './sweep-run';
import { TagReplacement, type NamedItem, type TagPart } from './tag-replacement';
import { TakeBackRun, type TakeBackTold } from './take-back-run';
import { Watch } from './watch';
import { Note, Worklist } from './worklist';
import { Notice, Task } from './work';

export {
  ApiKey,
  FormVisit,
  Hook,
  HookDeliveryRow,
  ImportRun,
  Invitation,
  Note,
  Notice,
  Person,
  SavedViewRow,
  Send,
  SendRecipient,
  Session,
  SweepRun,
  TagReplacement,
  TakeBackRun,
  Task,
  Watch,
  Worklist,
  type NamedItem,
  type TagPart,
  type TakeBackTold,
};

/** Tables that are read and written row by row. State that changes with every signal is written set-based: see `engine/parts`. */
export const ENTITIES = [
  Person,
  Invitation,
  Session,
  ApiKey,
  Task,
  Notice,
  ImportRun,
  Watch,
  SweepRun,
  TagReplacement,
  TakeBackRun,
  FormVisit,
  Hook,
  HookDeliveryRow,
  SavedViewRow,
  Worklist,
  Note,
  Send,
  SendRecipient,
];
