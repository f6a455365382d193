/** Kinds are open: only a kind's own file, its line in the interface and the registry know it by name. */
import ts from 'typescript';
import { AREA_TYPES } from '../../src/core/hand/areas';
import { TOOL_TYPES } from '../../src/core/hand/tools';
import { BAKE_TYPES } from '../../src/core/kinds/bakes';
import { FILTER_TYPES } from '../../src/core/kinds/filters';
import { MAP_IDS } from '../../src/core/kinds/maps';
import { SOURCE_TYPES } from '../../src/core/kinds/sources';
import { STEP_TYPES } from '../../src/core/kinds/steps';

/** Names of a registry's kinds, and the folders that may tell them apart. */
const REGISTRIES: { names: readonly string[]; own: RegExp }[] = [
  { names: STEP_TYPES, own: /core\/kinds\/steps\/|ui\/bench\/recipe\/steps\// },
  { names: SOURCE_TYPES, own: /core\/kinds\/sources\// },
  { names: FILTER_TYPES, own: /core\/kinds\/filters\/|ui\/bench\/filters\// },
  { names: BAKE_TYPES, own: /core\/kinds\/bakes\// },
  { names: MAP_IDS, own: /core\/kinds\/maps\// },
  { names: AREA_TYPES, own: /core\/hand\/areas\// },
  { names: TOOL_TYPES, own: /core\/hand\/tools\// },
];

/** The texts that an expression may be, by its type; null: it may be something else. */
function textsOf(checker: ts.TypeChecker, node: ts.Node): string[] | null {
  const type = checker.getTypeAtLocation(node);
  const parts = type.isUnion() ? type.types : [type];
  // Maps of one's own have names that begin alike.
  const texts = parts.filter((t) => !(t.flags & (ts.TypeFlags.TemplateLiteral | ts.TypeFlags.Undefined | ts.TypeFlags.Null)));
  return texts.every((t) => t.isStringLiteral()) ? texts.map((t) => (t as ts.StringLiteralType).value) : null;
}

/** Whether these are a registry's kinds: half of them at least, since short lists of other things share some of their words. */
const areKinds = (texts: readonly string[], names: readonly string[]) =>
  texts.length >= names.length / 2 && texts.every((t) => names.includes(t));

/** Places where a kind is told from its like by its name. */
function tellings(program: ts.Program, ours: (path: string) => boolean): string[] {
  const checker = program.getTypeChecker();
  const found: string[] = [];
  for (const file of program.getSourceFiles().filter((f) => ours(f.fileName))) {
    const look = (asked: ts.Node, name: ts.Node) => {
      if (!ts.isStringLiteral(name)) return;
      const texts = textsOf(checker, asked);
      const registry = texts && REGISTRIES.find(({ names, own }) => areKinds(texts, names) && !own.test(file.fileName));
      if (!registry) return;
      const { line } = file.getLineAndCharacterOfPosition(name.getStart());
      found.push(`${file.fileName.replace(/^.*\/(src|cli)\//, '$1/')}:${line + 1} ${name.text}`);
    };
    const visit = (node: ts.Node): void => {
      if (ts.isBinaryExpression(node) && /^[!=]==$/.test(node.operatorToken.getText())) {
        look(node.left, node.right);
        look(node.right, node.left);
      }
      if (ts.isSwitchStatement(node))
        for (const clause of node.caseBlock.clauses) if (ts.isCaseClause(clause)) look(node.expression, clause.expression);
      ts.forEachChild(node, visit);
    };
    visit(file);
  }
  return found;
}

const options: ts.CompilerOptions = {
  strict: true,
  noEmit: true,
  skipLibCheck: true,
  target: ts.ScriptTarget.ES2022,
  module: ts.ModuleKind.ESNext,
  moduleResolution: ts.ModuleResolutionKind.Bundler,
  jsx: ts.JsxEmit.Preserve,
  lib: ['lib.es2023.d.ts', 'lib.dom.d.ts'],
  types: [],
  paths: { '@/*': [`${process.cwd()}/src/*`] },
};

test('the search finds a kind that is told by its name, with === and in a switch', () => {
  const path = `${process.cwd()}/src/core/__tests__/told.ts`;
  const text = `
    import type { StepSource } from '../kinds/steps';
    export const a = (s: StepSource) => s.type === 'edges';
    export function b(s: StepSource) { switch (s.type) { case 'facing': return 1; default: return 0; } }
    export const c = (s: 'edges' | 'none') => s === 'edges';`;
  const host = ts.createCompilerHost(options);
  const read = host.getSourceFile.bind(host);
  host.getSourceFile = (name, ...rest) =>
    name === path ? ts.createSourceFile(name, text, ts.ScriptTarget.ES2022, true) : read(name, ...rest);
  const program = ts.createProgram([path], options, host);
  expect(tellings(program, (name) => name === path)).toEqual([
    'src/core/__tests__/told.ts:3 edges',
    'src/core/__tests__/told.ts:4 facing',
  ]);
});

test('no file beside its own tells a kind from its like by its name', () => {
  const { config } = ts.readConfigFile('tsconfig.json', ts.sys.readFile);
  const { fileNames } = ts.parseJsonConfigFileContent(config, ts.sys, process.cwd());
  // Benchmarks and tests may name single kinds.
  const ours = (f: string) => /\/(src|cli)\//.test(f) && !/node_modules|__tests__|\.test\.|\/testing\/|cli\/bench\//.test(f);
  expect(tellings(ts.createProgram(fileNames.filter(ours), options), ours)).toEqual([]);
});
