import { page } from '../core/texts/english.js';
import type { Texts } from '../core/texts/texts.js';
import { NoFixError } from '../core/fix/no-fix-error.js';

const ID = 'aurelian-drift-note';

/** Texts for the button of the note, from the source that began last. */
let labels: Texts | undefined;

/**
 * Shows a failure at the foot of the page: what happened, what helps, and a button that removes the note. A later note
 * replaces it. For failures that the app does not handle.
 */
export function showNote(error: NoFixError): void {
  if (typeof document === 'undefined') return;
  document.getElementById(ID)?.remove();
  const note = document.createElement('div');
  note.id = ID;
  note.setAttribute('role', error.neutral ? 'status' : 'alert');
  note.style.cssText =
    'position:fixed;left:1rem;right:1rem;bottom:1rem;z-index:2147483647;max-width:32rem;margin:auto;padding:.8rem ' +
    '1rem;' +
    'background:#f5e8d2;color:#2b2a33;border:1.5px solid;font:16px/1.4 "Source Sans ' +
    '3",sans-serif;display:flex;gap:1rem;align-items:start';
  const text = document.createElement('span');
  text.style.flex = '1';
  text.textContent = `${error.userText} ${error.remedy.text}`;
  const close = document.createElement('button');
  close.type = 'button';
  close.textContent = labels?.page?.close ?? page.close;
  close.style.cssText =
    'font:inherit;color:inherit;background:none;border:0;text-decoration:underline;cursor:pointer;min-height:24px';
  close.addEventListener('click', () => note.remove());
  note.append(text, close);
  document.body.append(note);
}

/** Number of sources that want it; the page has one listener for all. */
let wanted = 0;

function onRejection(event: PromiseRejectionEvent): void {
  if (event.reason instanceof NoFixError) showNote(event.reason);
}

/**
 * Also shows failures whose promise nobody caught; the console message of the browser stays. Returns the function that
 * ends this; call it once.
 */
export function showUnhandledRejections(texts: Texts | undefined): () => void {
  if (typeof window === 'undefined') return () => {};
  labels = texts;
  if (wanted++ === 0) window.addEventListener('unhandledrejection', onRejection);
  return () => {
    if (--wanted === 0) window.removeEventListener('unhandledrejection', onRejection);
  };
}
