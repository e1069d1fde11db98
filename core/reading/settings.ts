/** Where a clip was filmed: obvious to the user, and decisive for the possible explanations. */
export const SETTINGS = ['water', 'haze', 'air', 'unsure'] as const;
export type Setting = (typeof SETTINGS)[number];

export const SETTING_TITLES: Record<Setting, string> = {
  water: 'Under water',
  haze: 'Haze',
  air: 'Clear air',
  unsure: 'Not sure',
};
