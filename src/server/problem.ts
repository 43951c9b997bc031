import { SettingError } from '../engine/settings';
/** Every way in which a request can be answered by a problem, and its status. */
export const PROBLEMS = {
  malformed: [400, 'The request is no multipart form, or it breaks off.'],
  'no-token': [401, 'The token is missing or another.'],
  'foreign-page': [403, 'A page of another origin asked.'],
  unknown: [404, 'There is nothing at this address.'],
  method: [405, 'The address is asked in another way.'],
  slow: [408, 'The request did not arrive in time.'],
  'too-large': [413, 'The request or a file of it is too large, or there are too many.'],
  'too-many-pixels': [413, 'A picture has more pixels than are taken.'],
  type: [415, 'The request is no multipart form, or a file is none that is read.'],
  field: [422, 'A field is missing, unknown or can’t be.'],
  file: [422, 'A file is damaged.'],
  busy: [429, 'As much waits as may wait.'],
  failed: [500, 'The computing failed.'],
  'no-room': [503, 'The server has no room to keep what is sent.'],
  'no-queue': [503, 'The queue of work can’t be reached.'],
  stopping: [503, 'The server is ending.'],
  'too-long': [503, 'The work took longer than it may.']
} as const satisfies Record<string, readonly [status: number, title: string]>;

export type ProblemCode = keyof typeof PROBLEMS;

/** In seconds. */
const AGAIN: Partial<Record<ProblemCode, number>> = {
  busy: 5,
  'no-room': 60,
  'no-queue': 30,
  stopping: 30,
  'too-long': 60
};

/** What a request is answered with where it can't be done; the message is a sentence for a person. */
export class Problem extends Error {
  override readonly name = 'Problem';
  constructor(
    readonly code: ProblemCode,
    message: string,
    readonly field?: string
  ) {
    super(message);
  }

  get status(): number {
    return PROBLEMS[this.code][0];
  }

  get retryAfter(): number | undefined {
    return AGAIN[this.code];
  }

  /** As it is answered. */
  get told(): { error: { code: ProblemCode; field?: string; message: string } } {
    const { code, field, message } = this;
    return { error: { code, ...(field !== undefined && { field }), message } };
  }
}

/** What is said of how files are written. @throws Problem for the field that can't be */
export function inSettings<T>(read: () => T): T {
  try {
    return read();
  } catch (error) {
    if (!(error instanceof SettingError)) throw error;
    throw new Problem(
      'field',
      `“${error.setting}” can’t be ${error.value}: ${error.message}.`,
      error.setting
    );
  }
}
