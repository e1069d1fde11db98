export * from './formats';
export * from './probe';
export * from './run';
