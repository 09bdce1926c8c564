import { AxeBuilder } from '@axe-core/playwright';
import type { Page } from 'playwright-core';

/** Faults of a page that a checker of accessibility finds: the rule, and the first element that breaks it. */
export async function faultsOf(page: Page): Promise<string[]> {
  const { violations } = await new AxeBuilder({ page }).analyze();
  return violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html ?? ''}`);
}
