import { createContext, useContext, type RefObject } from 'react';
import type { BenchEngine } from './benchEngine';

/** The engine of the open bench; null until its canvas exists. */
export const EngineContext = createContext<RefObject<BenchEngine | null>>({ current: null });
export const useEngine = (): RefObject<BenchEngine | null> => useContext(EngineContext);
