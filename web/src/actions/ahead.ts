/** Keys that are typed from the moment a dialog with a field is asked for. */

/**
 * Keeps typed characters for a field that is about to appear, and for the field itself until the
 * host does anything else than typing. No key reaches the Page meanwhile. Focus and selection of
 * the field, which a dialog sets at its own time, do not matter.
 */
export class TypeAhead {
  #text = "";
  #target: EventTarget;
  #onChange: ((text: string) => void) | null = null;

  constructor(target: EventTarget = window) {
    this.#target = target;
  }

  /** Start to keep what is typed. */
  start() {
    this.end();
    this.#target.addEventListener("keydown", this.#press, { capture: true });
    this.#target.addEventListener("pointerdown", this.#leave, { capture: true });
  }

  /** What was typed so far. */
  get text(): string {
    return this.#text;
  }

  /** The field is there: call `onChange` with the text whenever it changes. */
  attach(onChange: (text: string) => void) {
    this.#onChange = onChange;
  }

  /** Keys go their usual way. */
  end() {
    this.#onChange = null;
    this.#text = "";
    this.#target.removeEventListener("keydown", this.#press, { capture: true });
    this.#target.removeEventListener("pointerdown", this.#leave, { capture: true });
  }

  #leave = () => this.end();

  #press = (event: Event) => {
    const { key, ctrlKey, metaKey, altKey } = event as KeyboardEvent;
    const typed = key.length === 1 || key === "Backspace";
    if (ctrlKey || metaKey || altKey) return;
    if (!typed && this.#onChange) {
      // An arrow key, Enter or Tab acts on the field. Keys alone that only modify do not count.
      if (!["Shift", "CapsLock", "AltGraph"].includes(key)) this.end();
      return;
    }
    if (key === "Escape") return this.end();
    event.preventDefault();
    event.stopPropagation();
    if (key === "Backspace") this.#text = this.#text.slice(0, -1);
    else if (typed) this.#text += key;
    this.#onChange?.(this.#text);
  };
}

export const ahead = new TypeAhead();
