const KEY = 'kromba-copied-steps';

/** Keeps copied steps for other documents and tabs of this browser, also where the system's clipboard is not to be had. */
export function keepOnClipboard(text: string): void {
  try {
    localStorage.setItem(KEY, text);
  } catch {
    // A private window without storage: the system's clipboard still has them.
  }
  void navigator.clipboard?.writeText(text).catch(() => undefined);
}

/** What was copied last; empty where nothing was. */
export function clipboardSteps(): string {
  try {
    return localStorage.getItem(KEY) ?? '';
  } catch {
    return '';
  }
}
