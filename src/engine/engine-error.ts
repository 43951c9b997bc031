/** The engine can't do its work; the message is for a person. */
export class EngineError extends Error {
  override readonly name = 'EngineError';
}
