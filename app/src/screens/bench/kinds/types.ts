import type { ComponentType } from 'react';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import type { Picks } from '../../../engine/picks';

/** What the controls of a step take. */
export interface ControlsProps {
  id: string;
  /** With keyframes resolved. */
  params: Record<string, unknown>;
  wide?: boolean;
}

/** What a tap on the picture means while something is picked. */
export interface PickDefinition {
  /** Said over the picture. */
  hint: string;
  /** An area of the picture was tapped, or dragged over. */
  run(picks: Picks, area: Area): Promise<void>;
}

/** A step kind's own controls on the bench. A kind without has rulers for its numbers and choices, which is enough. */
export interface KindControls {
  /** Above the rulers. */
  Head?: ComponentType<ControlsProps>;
  /** Its numbers have no rulers; the head shows them. */
  ownNumbers?: true;
  /** Its choices are the head's too. */
  ownChoices?: true;
  /** Height of the tray on a narrow screen, where the usual one is too low. */
  height?: number;
  picks?: Record<string, PickDefinition>;
}
