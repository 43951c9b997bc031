export * from './document';
export { changeProblem } from './change-problem';
export { freeName, freeNames, LONGEST_NAME } from './name';
export { contentKey } from './content-key';
export { frameKey, readFrameKey } from './frame-key';
export { pinKey, pinRoles, pinsOf, pinsRead, type Pin, type PinRole } from './pins';
export { DocumentError } from './problem';
export {
  maskOf,
  maskSchema,
  referenceKey,
  type Combine,
  type Mask,
  type MaskSource,
  type MaskTerm,
  type Reference,
  type Stroke
} from './mask';
export { referenceProblem, replaceUses, usedByStep, usersOf, type Used } from './references';
export {
  allSteps,
  commonSteps,
  findStep,
  groupAround,
  insideOf,
  listAround,
  stepsTo,
  wayTo,
  withoutStep,
  withStep,
  type Place
} from './places';
export { framesOf, Resolver, sourceKey } from './resolve';
export {
  actsOn,
  stepKey,
  stepOfHouse,
  stepSchema,
  titleOf,
  type Beside,
  type PictureSource,
  type SourcePicture,
  type SourceStep,
  type Step
} from './step';
export { whatDiffers, type StepDiffers, type ValueDiffers } from './what-differs';
export { coverageTold, historyOf, sentenceOf } from './sentence';
export {
  bringSteps,
  documentOf,
  lookOf,
  atStrength,
  strengthIn,
  putOn,
  stepsAsText,
  underNewIds,
  wholePath,
  type Naming,
  type Travelling
} from './look';
export { lookOn, type LookOn } from './look-on';
