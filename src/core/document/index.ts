export * from './document';
export { DocumentError } from './problem';
export { actsOn, stepSchema, type Step } from './step';
