import { useState, type CSSProperties } from 'react';
import { useConnection } from '../state/connection';

/** Cancels loading a removed picture; a browser would continue until the element is collected. */
const release = (img: HTMLImageElement | null) => () => img?.removeAttribute('src');

/**
 * A picture from the server, reloaded on reconnection if it failed. While the server is unreachable none is requested:
 * browsers open six connections to a server, which pending pictures would block.
 */
export function Thumb({ src, style }: { src: string; style?: CSSProperties }) {
  const { times, online } = useConnection();
  const [failed, setFailed] = useState('');
  const [loaded, setLoaded] = useState({ src: '', times: 0 });
  const isLoaded = loaded.src === src;
  const attempt = `${times} ${src}`;
  if (failed === attempt || (!online && !isLoaded)) return null;
  return (
    <img
      key={isLoaded ? loaded.times : times}
      ref={release}
      src={src}
      alt=""
      draggable={false}
      style={style}
      onLoad={() => setLoaded({ src, times })}
      onError={() => setFailed(attempt)}
    />
  );
}
