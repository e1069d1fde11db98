import { createContext, startTransition, useContext, useEffect, useState, type ReactNode } from 'react';
import { useBench } from '../state/bench';
import { useEngine } from './context';
import type { ScopeResult } from './worker/scopes';

const ScopeContext = createContext<ScopeResult | null>(null);

/**
 * Hands the scopes' newest result to the components, in slices that give way to a finger: many of them change with it.
 * The traces themselves do not wait for that; see `TraceCanvas`.
 */
export function ScopeProvider({ children }: { children: ReactNode }) {
  const engine = useEngine();
  const [scope, setScope] = useState(() => useBench.getState().scope);
  useEffect(
    () =>
      useBench.subscribe(
        (s) => s.scope,
        (next) => startTransition(() => setScope(next)),
      ),
    [],
  );
  useEffect(() => {
    if (scope) engine.current?.scopeShown(scope);
  }, [scope, engine]);
  return <ScopeContext.Provider value={scope}>{children}</ScopeContext.Provider>;
}

/** What the scopes measured last; null before the first time. */
export const useScope = (): ScopeResult | null => useContext(ScopeContext);
