import { LitElement } from 'lit';
import { earlyOf } from './take-up.js';

/**
 * The used part of the base class. It is declared here by its shape, so that the declarations of the package do not
 * depend on the rendering package.
 */
export declare abstract class PaperElementShape extends HTMLElement {
  /** Observed properties, by name. */
  protected static properties: object;
  protected static styles: unknown;
  /** Properties beside the observed ones that may be set before the element is defined. */
  protected static settable: readonly string[];
  /** Where the content is rendered. */
  protected readonly renderRoot: ParentNode;
  /** Resolves when the current changes are on the screen. */
  readonly updateComplete: Promise<boolean>;
  connectedCallback(): void;
  disconnectedCallback(): void;
  protected requestUpdate(): void;
  protected render(): unknown;
  /** Called after rendering, with the old value of each changed property. */
  protected updated(changed: ReadonlyMap<PropertyKey, unknown>): void;
}

class EarlyElement extends LitElement {
  static settable: readonly string[] = [];
  /** Taken before the fields of a subclass are set. */
  #early = earlyOf(this, (this.constructor as typeof EarlyElement).settable);

  override connectedCallback(): void {
    super.connectedCallback();
    Object.assign(this, this.#early);
    this.#early = {};
  }
}

/** The base class of the elements with a template. */
export const PaperElement: typeof PaperElementShape = EarlyElement as unknown as typeof PaperElementShape;
