import { beforeEach, describe, expect, it, vi } from 'vitest';
import { bindings, keyList, type Commands } from './keys';

class FakeElement {
  isContentEditable = false;
  blur = vi.fn();
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
    for (const key of ['a', 'p', 'g', 'd', 'x', 'u', 'h', 'n', 'Delete', 'PageDown']) press(key);
    expect(did).toEqual([
      'addStep',
      'dropPin',
      'grey',
      'duplicatePicture',
      'toggleStep',
      'group',
      'foldInstruments',
      'numbers',
      'removeStep',
      'picture'
    ]);
    expect(keyList.map(([keys]) => keys).join(' ')).toMatch(/A .*N .*X .*P .*G .*D /);
  });

  it('are letters while a person types a name, but not in a field of numbers', () => {
    const name = new FakeInput('text');
    press('a', name);
    expect(did).toEqual([]);
    const number = new FakeInput('text');
    number.inputMode = 'decimal';
    press('a', number);
    expect(did).toEqual(['addStep']);
    // A digit belongs to the number, whatever it would do elsewhere.
    expect(press('1', number)).toBe(false);
  });

  it('leave a dialog alone, and undo works from a field', () => {
    press('a', new FakeElement(['[role="dialog"]']));
    press('Escape', new FakeElement(['[role="dialog"]']));
    expect(did).toEqual([]);
    press('$mod+z', new FakeInput('text'));
    press('Escape');
    expect(did).toEqual(['undo', 'end']);
    const list = new FakeElement();
    list.tagName = 'SELECT';
    press('Escape', list);
    expect(list.blur).toHaveBeenCalledOnce();
  });

  it('do not repeat while a key is held, and end what is held when it is let go', () => {
    press('x', new FakeElement(), { repeat: true });
    expect(did).toEqual([]);
    press('o');
    up['o']({} as KeyboardEvent);
    expect(did).toEqual(['original', 'original']);
  });

  it('leave the arrows to sliders and tabs', () => {
    expect(press('ArrowLeft', new FakeElement(['[role="tablist"]']))).toBe(false);
    expect(press('ArrowLeft')).toBe(true);
    expect(did).toEqual(['pan']);
  });

  it('are the letters printed on the keys, or their places where a keyboard has no such letters', () => {
    // On a French keyboard the key that is A elsewhere prints Q.
    press('KeyA', new FakeElement(), { key: 'q' });
    expect(did).toEqual([]);
    press('KeyA', new FakeElement(), { key: 'ф' });
    expect(did).toEqual(['addStep']);
  });
});
