import { type StatePart } from '@eager-sieve/core';
import { consent } from './consent';
import { deals } from './deals';
import { facts } from './facts';
import { memberships } from './memberships';
import { type StoredPart } from './part';
import { pins } from './pins';
import { latchedLines, points } from './points';
import { firings, suspendedRules } from './rules';
import { dealScores, scores } from './scores';
import { tags } from './tags';

/** How each part of a subject's state is stored, in the order in which it is loaded and written: scores of deals after the deals. */
export const PARTS: Readonly<Record<StatePart, StoredPart>> = {
  facts,
  tags,
  consent,
  scores,
  memberships,
  pins,
  firings,
  suspendedRules,
  latchedLines,
  points,
  deals,
  dealScores,
};

export const ALL_PARTS: readonly StoredPart[] = Object.values(PARTS);
