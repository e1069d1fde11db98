import { create } from 'zustand';

/** Whether the server answers this device. One that came in over the network is asked for a code first. */
export const useAdmission = create<{ letIn: boolean }>(() => ({ letIn: true }));

export const letOut = (): void => useAdmission.setState({ letIn: false });
