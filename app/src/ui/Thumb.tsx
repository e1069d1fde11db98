import { useEffect, useState, type CSSProperties } from 'react';
import { PATIENCE_MS } from '../api/request';
import { useConnection } from '../state/connection';

/** Cancels loading a removed picture; a browser would continue until the element is collected. */
const release = (img: HTMLImageElement | null) => () => img?.removeAttribute('src');

/**
 * A picture from the server, reloaded on reconnection if it failed, and requested again if it does not arrive, like
 * other requests: its own connection may be dead. While the server is unreachable none is requested:
 * browsers open six connections to a server, which pending pictures would block.
 */
export function Thumb({ src, style }: { src: string; style?: CSSProperties }) {
  const { times, online } = useConnection();
  const [failed, setFailed] = useState('');
  const [loaded, setLoaded] = useState({ src: '', attempt: '' });
  const [late, setLate] = useState({ src: '', times: 0 });
  const isLoaded = loaded.src === src;
  const lateTimes = late.src === src ? late.times : 0;
  const attempt = `${times} ${lateTimes}`;
  const hasFailed = failed === `${attempt} ${src}`;
  const waits = online && !isLoaded && !hasFailed && lateTimes < PATIENCE_MS.length;
  useEffect(() => {
    if (!waits) return undefined;
    const timer = setTimeout(() => setLate({ src, times: lateTimes + 1 }), PATIENCE_MS[lateTimes]);
    return () => clearTimeout(timer);
  }, [waits, src, lateTimes]);
  if (hasFailed || (!online && !isLoaded)) return null;
  return (
    <img
      key={isLoaded ? loaded.attempt : attempt}
      ref={release}
      src={src}
      alt=""
      draggable={false}
      style={style}
      onLoad={() => setLoaded({ src, attempt })}
      onError={() => setFailed(`${attempt} ${src}`)}
    />
  );
}
