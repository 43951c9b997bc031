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
  foldInstruments(): void;
  grey(): void;
  addStep(): void;
  dropPin(): void;
  removeStep(): void;
  toggleStep(): void;
  duplicatePicture(): void;
  picture(direction: 1 | -1): void;
  brush(): void;
  brushSize(by: 1 | -1): void;
  mask(): void;
  /** Ends what is going on: picking, a proposal. */
  end(): void;
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
  ['A', 'Add a step'],
  ['X', 'Switch the selected step off or on'],
  ['Alt ← →', 'On a step of the path: move it'],
  ['Delete', 'Remove the selected step'],
  ['Ctrl C  Ctrl V', 'Copy the selected step, paste steps after it; from document to document too'],
  ['P', 'Drop a pin under the pointer'],
  ['G', 'See the channel as greys in Out, or the colours'],
  ['D', 'Duplicate the picture: a version'],
  ['Page Up  Page Down', 'From picture to picture'],
  ['S', 'Strokes: paint the mask of the step, or put the brush away'],
  ['<  >', 'Smaller, larger brush'],
  ['M', 'See the mask in Out, or the picture'],
  ['I  W  H', 'Fold In, Work, the instruments'],
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
      KeyA: letter(commands.addStep),
      KeyX: letter(commands.toggleStep),
      KeyP: letter(commands.dropPin),
      KeyG: letter(commands.grey),
      KeyD: letter(commands.duplicatePicture),
      KeyH: letter(commands.foldInstruments),
      KeyS: letter(commands.brush),
      KeyM: letter(commands.mask),
      'Shift+Comma': plain(() => commands.brushSize(-1)),
      'Shift+Period': plain(() => commands.brushSize(1)),
      PageUp: plain(() => commands.picture(-1)),
      PageDown: plain(() => commands.picture(1)),
      Delete: plain(commands.removeStep),
      Escape: (event) => {
        if (!inDialog(event)) commands.end();
      },
      KeyI: letter(commands.foldIn),
      KeyW: letter(commands.foldWork),
      KeyE: letter(commands.export),
      'Shift+Slash': letter(commands.keys)
    },
    up: { KeyO: () => commands.original(false) }
  };
}
