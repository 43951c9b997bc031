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
  /** Folds the chosen steps into a group, or takes the selected group apart. */
  group(): void;
  duplicatePicture(): void;
  picture(direction: 1 | -1): void;
  /** Opens the shelf of looks, or closes it. */
  looks(): void;
  /** Lifts a dark picture for the eye, lifts it more, or shows it as it is. */
  lift(): void;
  /** Keeps what is seen in a place of its own beside. */
  beside(): void;
  nextPlace(): void;
  /** The next way in which places are looked at. */
  nextWay(): void;
  brush(): void;
  brushSize(by: 1 | -1): void;
  mask(): void;
  /** Goes to the first number of the selected step. */
  numbers(): void;
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
  ['N', 'To the first number of the selected step'],
  ['X', 'Switch the selected step off or on'],
  ['Alt ← →', 'On a step of the path: move it'],
  ['Shift click', 'On a step of the path, or Shift Enter: choose all up to it'],
  ['U', 'Unite the chosen steps in a group, or take the group apart'],
  ['Delete', 'Remove the selected step'],
  ['Ctrl C  Ctrl V', 'Copy the selected step, paste steps after it; from document to document too'],
  ['P', 'Drop a pin under the pointer, or in the middle of what is seen: arrows move it'],
  ['G', 'See the channel as greys in Out, or the colours'],
  ['D', 'Duplicate the picture: a version'],
  ['Page Up  Page Down', 'From picture to picture'],
  ['K', 'Lift a dark linear picture for the eye, lift it more, or see it as it is'],
  ['L', 'Looks: open the shelf, or close it'],
  ['B', 'Beside: keep what is seen in a place of its own; on a picture’s name, put that picture there'],
  ['J', 'Jump to the next place: work on it, or see it where they are flipped through'],
  ['C', 'Compare in the next way: together, divider, flip, difference'],
  ['S', 'Strokes: paint the mask of the step, or put the brush away'],
  ['<  >', 'Smaller, larger brush'],
  ['M', 'See the mask in Out, or the picture'],
  ['I  W  H', 'Fold In, Work, the instruments'],
  ['E', 'Export'],
  [
    '↑ ↓ in a number',
    'One up or down (0.1 or 0.01 of fine numbers, 100 of kelvins); with Shift ten times that'
  ],
  ['Alt Backspace', 'In a number: reset it'],
  ['T', 'In a number, or a click on its name: try it at several values; a second number makes a grid'],
  ['Esc', 'Leave a field; end picking or a proposal'],
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
      '$mod+z': always(commands.undo),
      '$mod+Shift+z': always(commands.redo),
      '$mod+y': always(commands.redo),
      ...printed('f', letter(commands.fit)),
      '1': plain(commands.full),
      'Shift+1': plain(commands.full),
      ...sign('+', plain(commands.closer)),
      '=': plain(commands.closer),
      '-': plain(commands.further),
      ArrowLeft: pan(-1, 0),
      ArrowRight: pan(1, 0),
      ArrowUp: pan(0, -1),
      ArrowDown: pan(0, 1),
      ',': plain(() => commands.step(-1)),
      ...sign(
        '.',
        plain(() => commands.step(1))
      ),
      ...sign(
        '<',
        plain(() => commands.brushSize(-1))
      ),
      ...sign(
        '>',
        plain(() => commands.brushSize(1))
      ),
      ...printed(
        'o',
        letter(() => commands.original(true))
      ),
      ...printed('a', letter(commands.addStep)),
      ...printed('x', letter(commands.toggleStep)),
      ...printed('u', letter(commands.group)),
      ...printed('p', letter(commands.dropPin)),
      ...printed('g', letter(commands.grey)),
      ...printed('d', letter(commands.duplicatePicture)),
      ...printed('l', letter(commands.looks)),
      ...printed('k', letter(commands.lift)),
      ...printed('b', letter(commands.beside)),
      ...printed('j', letter(commands.nextPlace)),
      ...printed('c', letter(commands.nextWay)),
      ...printed('h', letter(commands.foldInstruments)),
      ...printed('s', letter(commands.brush)),
      ...printed('m', letter(commands.mask)),
      ...printed('i', letter(commands.foldIn)),
      ...printed('w', letter(commands.foldWork)),
      ...printed('e', letter(commands.export)),
      ...printed('n', letter(commands.numbers)),
      PageUp: plain(() => commands.picture(-1)),
      PageDown: plain(() => commands.picture(1)),
      Delete: plain(commands.removeStep),
      Escape: (event) => {
        if (inDialog(event)) return;
        // Out of a field or a list: letters are keys again.
        if (isTyping(event)) (event.target as HTMLElement).blur();
        commands.end();
      },
      ...sign('?', letter(commands.keys))
    },
    up: printed('o', () => commands.original(false))
  };
}

/**
 * A letter as it is printed on the key, wherever the key lies; on a keyboard of another script, where no key has it, the
 * key in its place.
 */
const printed = (key: string, act: Keys[string]): Keys => ({
  [key]: act,
  [`Key${key.toUpperCase()}`]: (event) => {
    if (!/^[ -~]$/.test(event.key)) act(event);
  }
});

/** A sign that needs Shift on some keyboards and not on others. */
const sign = (key: string, act: Keys[string]): Keys => ({ [key]: act, [`Shift+${key}`]: act });
