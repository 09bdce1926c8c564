/** Problem with a purpose text, and what to write. */
export interface TextProblem {
  readonly rule: 'empty-purpose' | 'template-purpose' | 'vague-purpose';
  readonly problem: string;
  readonly remedy: string;
}

/** Placeholder of a template. A build variable, such as $(NAME), is not one. */
const TEMPLATE = new RegExp(
  [
    /\b(?:todo|tbd|fixme|lorem|ipsum|xxx+|asdf|foo|placeholder|sample text|description here|text here)\b/,
    /\b(?:insert (?:text|reason)|your (?:reason|text|description))\b/,
    /\{\{|\$\{|<[^>]*>|\[[^\]]*\]/,
  ]
    .map(({ source }) => source)
    .join('|'),
  'i',
);
/** Text that asks for the position without stating a purpose. */
const BARE = new RegExp(
  [
    /^\W*(?:(?:this|the|our|\S+) (?:app|application|page|site)|we|allow|please)?\W*/,
    /(?:would like to|wants? to|needs? to|needs?|requires?|uses?|wants?|access(?:es)?|allow|please allow)*\W*/,
    /(?:(?:use|know|access|get|have)\W*)*(?:access to)?\W*(?:your|the|user|users|user's)?\W*(?:current )?/,
    /(?:location|position|whereabouts|gps)(?: data| permission| services?| access)?\W*$/,
  ]
    .map(({ source }) => source)
    .join(''),
  'i',
);

/** What a user misses in a purpose text; `undefined` for a text that states the purpose. */
export function purposeProblem(text: string): TextProblem | undefined {
  const words = text.trim();
  if (words === '') {
    return { rule: 'empty-purpose', problem: 'the purpose text is empty', remedy: SAY_WHY };
  }
  const template = TEMPLATE.exec(words);
  if (template !== null) {
    return {
      rule: 'template-purpose',
      problem: `the purpose text is still a template: "${template[0]}"`,
      remedy: SAY_WHY,
    };
  }
  if (words.split(/\s+/).length < 3 || BARE.test(words)) {
    return {
      rule: 'vague-purpose',
      problem: `the purpose text states no purpose: "${shortened(words)}"`,
      remedy: SAY_WHY,
    };
  }
  return undefined;
}

const SAY_WHY =
  'State in a sentence what the user gains: "Shows you on the map of your round and keeps your trail."';

export function shortened(text: string): string {
  return text.length <= 60 ? text : `${text.slice(0, 59)}…`;
}
