/** What the keys of the bench do. */
export interface Commands {
  undo(): void;
  redo(): void;
  export(): void;
  keys(): void;
  fit(): void;
  full(): void;
  closer(): void;
  further(): void;
  /** In eighths of the view. */
  pan(x: number, y: number): void;
  foldIn(): void;
  foldWork(): void;
  step(direction: 1 | -1): void;
  original(held: boolean): void;
}

type Keys = Record<string, (event: KeyboardEvent) => void>;

/** Key, as it is told under “?”, and what it does. */
export const keyList: readonly [keys: string, does: string][] = [
  ['O (hold)', 'See the original'],
  ['Ctrl Z', 'Undo'],
  ['Ctrl Shift Z', 'Redo'],
  ['F', 'Show the whole picture'],
  ['1', 'One picture pixel a screen pixel'],
  ['+  −', 'Closer, further away'],
  ['Arrows', 'Move the picture, when no field is in use'],
  ['Wheel', 'Zoom about the pointer'],
  ['Double-click', 'On the picture: 1:1 there, or back to the whole'],
  [',  .', 'Previous, next step'],
  ['I  W', 'Fold In, fold Work'],
  ['E', 'Export'],
  ['Arrows in a number', 'One up or down; with Shift ten'],
  ['?', 'This list']
];

const NOT_TYPED = ['checkbox', 'radio', 'range', 'button'];

const isTyping = ({ target }: Event): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    ['TEXTAREA', 'SELECT'].includes(target.tagName) ||
    (target instanceof HTMLInputElement && !NOT_TYPED.includes(target.type)));

/** Letters are no part of a number: there they keep their meaning for the bench. */
const takesLetters = (event: Event): boolean =>
  isTyping(event) && !(event.target instanceof HTMLInputElement && event.target.inputMode === 'decimal');

const usesArrows = (event: Event): boolean =>
  isTyping(event) ||
  (event.target instanceof HTMLElement &&
    event.target.closest('[role="tablist"], input, [role="separator"]') !== null);

const inDialog = ({ target }: Event): boolean =>
  target instanceof HTMLElement && target.closest('[role="dialog"]') !== null;

/** Key bindings for the page; none acts while a person types or a dialog is open. */
export function bindings(commands: Commands): { down: Keys; up: Keys } {
  const plain =
    (act: () => void): Keys[string] =>
    (event) => {
      if (isTyping(event) || inDialog(event) || event.repeat) return;
      event.preventDefault();
      act();
    };
  const letter =
    (act: () => void): Keys[string] =>
    (event) => {
      if (takesLetters(event) || inDialog(event) || event.repeat) return;
      event.preventDefault();
      act();
    };
  const pan =
    (x: number, y: number): Keys[string] =>
    (event) => {
      if (usesArrows(event) || inDialog(event)) return;
      event.preventDefault();
      commands.pan(x, y);
    };
  const always =
    (act: () => void): Keys[string] =>
    (event) => {
      if (inDialog(event)) return;
      event.preventDefault();
      act();
    };
  return {
    down: {
      '$mod+KeyZ': always(commands.undo),
      '$mod+Shift+KeyZ': always(commands.redo),
      '$mod+KeyY': always(commands.redo),
      KeyO: letter(() => commands.original(true)),
      KeyF: letter(commands.fit),
      Digit1: plain(commands.full),
      Equal: plain(commands.closer),
      'Shift+Equal': plain(commands.closer),
      NumpadAdd: plain(commands.closer),
      Minus: plain(commands.further),
      NumpadSubtract: plain(commands.further),
      ArrowLeft: pan(-1, 0),
      ArrowRight: pan(1, 0),
      ArrowUp: pan(0, -1),
      ArrowDown: pan(0, 1),
      Comma: plain(() => commands.step(-1)),
      Period: plain(() => commands.step(1)),
      KeyI: letter(commands.foldIn),
      KeyW: letter(commands.foldWork),
      KeyE: letter(commands.export),
      'Shift+Slash': letter(commands.keys)
    },
    up: { KeyO: () => commands.original(false) }
  };
}
