export const element = (id: string) => document.getElementById(id) as HTMLElement;
export const button = (id: string) => element(id) as HTMLButtonElement;
export const field = (id: string) => element(id) as HTMLInputElement;

/** Sets a text, never markup; an unchanged text is not set, so that it is not announced again. */
export function write(id: string, text: string): void {
  if (element(id).textContent !== text) element(id).textContent = text;
}

/** An element with a text and a class. */
export function piece(tag: string, text: string, className = ''): HTMLElement {
  const made = document.createElement(tag);
  made.textContent = text;
  if (className !== '') made.className = className;
  return made;
}

/** A button with a text, and what it does. */
export function pressable(text: string, press: () => unknown): HTMLButtonElement {
  const made = document.createElement('button');
  made.type = 'button';
  made.textContent = text;
  made.addEventListener('click', press);
  return made;
}
