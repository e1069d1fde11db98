import { create } from 'zustand';

/** Whether the server accepts this device. Over the network a device must be paired first. */
export const useAdmission = create<{ letIn: boolean }>(() => ({ letIn: true }));

export const letOut = (): void => useAdmission.setState({ letIn: false });
