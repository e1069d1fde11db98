import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { api } from '../../api/client';
import { dropMessage, tell } from '../../state/messages';

const KEY = 'plugged-in';

/** Offers a card or a disk when it is plugged into the server's machine while this screen is open. */
export function usePluggedIn(onLook: (sourceId: string) => void): void {
  const { data } = useQuery({ queryKey: ['sources'], queryFn: api.sources });
  const seen = useRef<ReadonlySet<string> | null>(null);
  const look = useRef(onLook);
  useEffect(() => {
    look.current = onLook;
  });
  useEffect(() => {
    if (!data) return;
    const there = data.filter((s) => s.present && s.kind !== 'folder');
    const added = seen.current ? there.filter((s) => !seen.current!.has(s.id)) : [];
    seen.current = new Set(there.map((s) => s.id));
    const [first] = added;
    if (first)
      tell({
        key: KEY,
        text: `${first.kind === 'card' ? 'A card' : `“${first.name}”`} is in.`,
        actions: [{ title: 'Look at its clips', strong: true, run: () => look.current(first.id) }],
        fades: true,
      });
  }, [data]);
  useEffect(() => () => dropMessage(KEY), []);
}
