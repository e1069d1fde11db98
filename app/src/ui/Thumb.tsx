import { useState, type CSSProperties } from 'react';
import { useConnection } from '../state/connection';

/** A picture from the server; one that could not be fetched is fetched again when the server is back. */
export function Thumb({ src, style }: { src: string; style?: CSSProperties }) {
  const times = useConnection((s) => s.times);
  const [failed, setFailed] = useState('');
  const attempt = `${times} ${src}`;
  if (failed === attempt) return null;
  return <img key={times} src={src} alt="" draggable={false} style={style} onError={() => setFailed(attempt)} />;
}
