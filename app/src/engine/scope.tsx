import { createContext, startTransition, useContext, useEffect, useState, type ReactNode } from 'react';
import { useBench } from '../state/bench';
import { useEngine } from './context';
import type { ScopeResult } from './worker/scopes';

const ScopeContext = createContext<ScopeResult | null>(null);

/**
 * Provides scope results to components as a transition, which yields to input: many of them update at once. Traces are
 * drawn directly; see `TraceCanvas`.
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

/** The latest scope results; null before the first. */
export const useScope = (): ScopeResult | null => useContext(ScopeContext);
