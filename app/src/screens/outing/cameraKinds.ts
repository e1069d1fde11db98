import { CAMERA_KINDS, type Camera } from '@inkavo/core/model/outing';

const TITLES: Record<Camera['kind'], string> = {
  action: 'Action',
  drone: 'Drone',
  dive: 'Dive',
  phone: 'Phone',
  other: 'Other',
};
/** The kinds of cameras to choose from. */
export const KINDS = CAMERA_KINDS.map((value) => ({ value, title: TITLES[value] }));
