import { LitElement } from 'lit';

/**
 * The used part of the base class. It is declared here by its shape, so that the declarations of the package do not
 * depend on the rendering package.
 */
export declare abstract class PaperElementShape extends HTMLElement {
  /** Observed properties, by name. */
  protected static properties: object;
  protected static styles: unknown;
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

/** The base class of the elements with a template. */
export const PaperElement: typeof PaperElementShape = LitElement as unknown as typeof PaperElementShape;
