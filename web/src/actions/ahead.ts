/** Keys that are typed after a dialog was asked for and before its field has the focus. */

/** Keeps typed characters for a field that is about to appear. No key reaches the Page meanwhile. */
export class TypeAhead {
  #text = "";
  #listening = false;
  #target: EventTarget;
  #onChange: ((text: string) => void) | null = null;

  constructor(target: EventTarget = window) {
    this.#target = target;
  }

  /** Start to keep what is typed. */
  start() {
    this.#text = "";
    if (this.#listening) return;
    this.#listening = true;
    this.#target.addEventListener("keydown", this.#press, { capture: true });
  }

  /** What was typed so far. */
  get text(): string {
    return this.#text;
  }

  /** Call `onChange` with the text whenever another character is typed. */
  attach(onChange: (text: string) => void) {
    if (this.#listening) this.#onChange = onChange;
  }

  /** The field has the focus, or the dialog is gone: keys go their usual way. */
  end() {
    this.#listening = false;
    this.#onChange = null;
    this.#text = "";
    this.#target.removeEventListener("keydown", this.#press, { capture: true });
  }

  #press = (event: Event) => {
    const { key, ctrlKey, metaKey, altKey } = event as KeyboardEvent;
    if (ctrlKey || metaKey || altKey) return;
    if (key === "Escape") return this.end();
    event.preventDefault();
    event.stopPropagation();
    if (key === "Backspace") this.#text = this.#text.slice(0, -1);
    else if (key.length === 1) this.#text += key;
    this.#onChange?.(this.#text);
  };
}

export const ahead = new TypeAhead();
