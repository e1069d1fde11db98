import { useState, type CSSProperties } from 'react';
import { useConnection } from '../state/connection';

/** Ends fetching a picture that is taken away; a browser goes on until it collects the element. */
const release = (img: HTMLImageElement | null) => () => img?.removeAttribute('src');

/**
 * A picture from the server; one that could not be fetched is fetched again when the server is back. While it is away none is
 * waited for: browsers open six connections to a server, and pictures that nothing answers would hold them all.
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
