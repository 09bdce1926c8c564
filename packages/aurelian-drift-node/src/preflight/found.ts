import type { Finding } from 'aurelian-drift';
import type { ProjectFile } from './project.js';

/** Adds a finding about a file to a list. `line` counts from 1, and is absent for the file as a whole. */
export type Found = (
  severity: Finding['severity'],
  rule: string,
  problem: string,
  remedy: string,
  line?: number,
) => void;

/** A function that adds findings about one file to a list. */
export function foundIn(file: ProjectFile, findings: Finding[]): Found {
  return (severity, rule, problem, remedy, line) =>
    findings.push({ severity, rule, file: file.path, problem, remedy, ...(line !== undefined && { line }) });
}
