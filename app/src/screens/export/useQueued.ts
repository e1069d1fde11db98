import { useRouter } from 'expo-router';
import { useEffect, useRef } from 'react';
import { tell } from '../../state/messages';

/**
 * Returns what to call once a sheet's deliveries are queued: it closes the sheet and shows the queue. If the sheet was
 * closed meanwhile, the user is elsewhere, and is only told.
 */
export function useQueued(onClose: () => void): () => void {
  const router = useRouter();
  const open = useRef(false);
  useEffect(() => {
    open.current = true;
    return () => {
      open.current = false;
    };
  }, []);
  return () => {
    if (!open.current) return tell({ key: 'queued', text: 'It is queued under Exports.', fades: true });
    onClose();
    router.push('/exports');
  };
}
