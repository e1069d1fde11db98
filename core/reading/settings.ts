/** Where a clip was filmed: what a person can say at a glance, and what rules whole explanations out. */
export const SETTINGS = ['water', 'haze', 'air', 'unsure'] as const;
export type Setting = (typeof SETTINGS)[number];

export const SETTING_TITLES: Record<Setting, string> = {
  water: 'Under water',
  haze: 'Haze',
  air: 'Clear air',
  unsure: 'Not sure',
};
