import { beforeEach, describe, expect, it, vi } from 'vitest';
import { bindings, keyList, type Commands } from './keys';

class FakeElement {
  isContentEditable = false;
  tagName = 'DIV';
  constructor(private readonly inside: readonly string[] = []) {}
  closest(selector: string): FakeElement | null {
    return this.inside.some((part) => selector.includes(part)) ? this : null;
  }
}
class FakeInput extends FakeElement {
  override tagName = 'INPUT';
  inputMode = '';
  constructor(public type: string) {
    super(['input']);
  }
}
vi.stubGlobal('HTMLElement', FakeElement);
vi.stubGlobal('HTMLInputElement', FakeInput);

const did: string[] = [];
const commands = new Proxy({} as Commands, {
  get: (_, name: string) => () => void did.push(name)
});
const { down, up } = bindings(commands);
const press = (key: string, target: FakeElement = new FakeElement(), more: object = {}): boolean => {
  const event = { target, repeat: false, preventDefault: vi.fn(), ...more };
  down[key](event as unknown as KeyboardEvent);
  return event.preventDefault.mock.calls.length > 0;
};

beforeEach(() => void (did.length = 0));

describe('the keys of the bench', () => {
  it('do what the list says', () => {
    for (const key of ['KeyA', 'KeyP', 'KeyG', 'KeyD', 'KeyX', 'KeyH', 'Delete', 'PageDown']) press(key);
    expect(did).toEqual([
      'addStep',
      'dropPin',
      'grey',
      'duplicatePicture',
      'toggleStep',
      'foldInstruments',
      'removeStep',
      'picture'
    ]);
    expect(keyList.map(([keys]) => keys).join(' ')).toMatch(/A .*X .*P .*G .*D /);
  });

  it('are letters while a person types a name, but not in a field of numbers', () => {
    const name = new FakeInput('text');
    press('KeyA', name);
    expect(did).toEqual([]);
    const number = new FakeInput('text');
    number.inputMode = 'decimal';
    press('KeyA', number);
    expect(did).toEqual(['addStep']);
    // A digit belongs to the number, whatever it would do elsewhere.
    expect(press('Digit1', number)).toBe(false);
  });

  it('leave a dialog alone, and undo works from a field', () => {
    press('KeyA', new FakeElement(['[role="dialog"]']));
    press('Escape', new FakeElement(['[role="dialog"]']));
    expect(did).toEqual([]);
    press('$mod+KeyZ', new FakeInput('text'));
    press('Escape');
    expect(did).toEqual(['undo', 'end']);
  });

  it('do not repeat while a key is held, and end what is held when it is let go', () => {
    press('KeyX', new FakeElement(), { repeat: true });
    expect(did).toEqual([]);
    press('KeyO');
    up['KeyO']({} as KeyboardEvent);
    expect(did).toEqual(['original', 'original']);
  });

  it('leave the arrows to sliders and tabs', () => {
    expect(press('ArrowLeft', new FakeElement(['[role="tablist"]']))).toBe(false);
    expect(press('ArrowLeft')).toBe(true);
    expect(did).toEqual(['pan']);
  });
});
