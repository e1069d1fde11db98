import { Pressable } from 'react-native';
import { Txt } from '../../ui/Txt';

const FOCUSABLE = 'button, a[href], input, [tabindex="0"]';

/** Moves focus to the first control of a part of the screen. */
function focusIn(testId: string): void {
  const part = document.querySelector<HTMLElement>(`[data-testid=${testId}]`);
  (part?.matches(FOCUSABLE) ? part : part?.querySelector<HTMLElement>(FOCUSABLE))?.focus();
}

const LINKS = [
  { title: 'To the step in hand', to: 'tray' },
  { title: 'To the place in the clip', to: 'scrub' },
] as const;

/** First on the page for keyboard users; visible only while focused. */
export function SkipLinks() {
  return (
    <>
      {LINKS.map(({ title, to }) => (
        <Pressable
          key={to}
          role="button"
          onPress={() => focusIn(to)}
          className="absolute left-2 top-[-60px] z-30 h-[44px] justify-center rounded bg-accent px-3 focus:top-[2px]"
        >
          <Txt bold ink="text-on-accent">
            {title}
          </Txt>
        </Pressable>
      ))}
    </>
  );
}
