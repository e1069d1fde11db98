import type { ComponentType } from 'react';
import type { Area } from '@inkavo/core/scopes/sampleArea';
import type { Picks } from '../../../engine/picks';

/** Props of a step's controls. */
export interface ControlsProps {
  id: string;
  /** With keyframes resolved. */
  params: Record<string, unknown>;
  wide?: boolean;
}

/** Meaning of a tap on the picture during a pick. */
export interface PickDefinition {
  /** Instruction shown over the picture. */
  hint: string;
  /** An area of the picture was tapped or dragged. */
  run(picks: Picks, area: Area): Promise<void>;
}

/** Custom controls of a step kind on the bench. A kind without has rulers for its numbers, and choices. */
export interface KindControls {
  /** Above the rulers. */
  Head?: ComponentType<ControlsProps>;
  /** Its numbers are shown in the head instead of as rulers. */
  ownNumbers?: true;
  /** Its choices are part of the head too. */
  ownChoices?: true;
  /** Height of the tray on a narrow screen, if the default is too low. */
  height?: number;
  picks?: Record<string, PickDefinition>;
}
