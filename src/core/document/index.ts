export * from './document';
export { DocumentError } from './problem';
export { actsOn, stepKey, stepSchema, type Step } from './step';
