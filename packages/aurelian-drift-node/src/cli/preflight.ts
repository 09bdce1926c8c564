import { writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { Command } from 'commander';
import pc from 'picocolors';
import type { Finding } from 'aurelian-drift';
import type { PromptPreview } from '../preflight/project.js';
import { preflight, type PreflightReport } from '../preflight/preflight.js';
import { previewPage } from '../preflight/preview.js';
import { counted } from './counted.js';
import { printJson } from './json.js';
import { Misuse } from './misuse.js';
import { readProject } from './project-files.js';
import { printable } from './tables.js';

export function preflightCommand(): Command {
  return new Command('preflight')
    .description(
      'check a project for everything that will make positioning fail or be refused; exit code 1 if there is anything',
    )
    .argument('<folder>', 'folder of the project: property lists, manifests, pages, header files, code')
    .option('--preview <file>', 'also write an HTML page with the prompts that users will see')
    .option('--json', 'print the whole report as one JSON value')
    .action(async (folder: string, { preview, json = false }: { preview?: string; json?: boolean }) => {
      if (preview !== undefined && !/\.html?$/i.test(preview))
        throw new Misuse(`${preview}: a preview is a page, .html`);
      const { version } = createRequire(import.meta.url)('aurelian-drift/package.json') as {
        version: string;
      };
      const report = preflight(await readProject(folder), version);
      if (preview !== undefined) await writeFile(preview, previewPage(report.prompts));
      if (json) printJson(report);
      else process.stdout.write(reportText(folder, report));
      if (report.findings.some(({ severity }) => severity === 'error')) process.exitCode = 1;
    });
}

function reportText(folder: string, { findings, prompts, needs, looked }: PreflightReport): string {
  if (looked.length === 0) return `${printable(folder)}: nothing here that preflight looks at\n`;
  const uses = [
    needs.positions ? 'positions' : undefined,
    needs.precise ? `precise ones (${needs.where.precise ?? ''})` : undefined,
    needs.background ? `the background (${needs.where.background ?? ''})` : undefined,
  ].filter((use) => use !== undefined);
  const errors = findings.filter(({ severity }) => severity === 'error').length;
  const warnings = findings.length - errors;
  return [
    `Looked at ${counted(looked.length, 'file')}. The code uses ` +
      `${uses.length === 0 ? 'no positions' : uses.join(', ')}.`,
    '',
    ...findings.flatMap(findingLines),
    ...(prompts.length === 0
      ? []
      : [pc.bold('What users will be asked'), ...prompts.flatMap(promptLines), '']),
    findings.length === 0
      ? 'Nothing stands in the way.'
      : `${counted(errors, 'error')}, ${counted(warnings, 'warning')}.`,
    '',
  ].join('\n');
}

function findingLines({ severity, rule, file, line, problem, remedy }: Finding): string[] {
  const place = `${file}${line === undefined ? '' : `:${line}`}`;
  const head = severity === 'error' ? pc.red('error') : pc.yellow('warning');
  return [
    `${head}  ${printable(place)}  (${rule})`,
    `  ${printable(problem)}`,
    `  ${pc.dim(printable(remedy))}`,
    '',
  ];
}

function promptLines({ file, level, language, text, choices }: PromptPreview): string[] {
  const words = text === undefined ? 'in the system’s own words' : `“${printable(text)}”`;
  return [
    `  ${level}${language === undefined ? '' : `, ${language}`} (${printable(file)}): ${words}`,
    `    choices: ${choices.join(' · ')}`,
  ];
}
