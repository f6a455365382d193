import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import hooks from 'eslint-plugin-react-hooks';
import ts from 'typescript-eslint';

/**
 * Arrows point down only: app → ui → viewport, engine → core → kernels; server → core. For each folder the
 * folders above it or beside it that it must not know.
 */
const forbidden = {
  'src/kernels': ['app', 'ui', 'viewport', 'engine', 'server', 'core'],
  'src/core': ['app', 'ui', 'viewport', 'engine', 'server'],
  'src/engine': ['app', 'ui', 'viewport', 'server'],
  'src/viewport': ['app', 'ui', 'server'],
  'src/server': ['app', 'ui', 'viewport', 'engine'],
  'src/ui': ['app', 'server'],
};
const downward = Object.entries(forbidden).map(([folder, above]) => ({
  files: [`${folder}/**/*.{ts,tsx}`],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          {
            group: above.flatMap((a) => [`@/${a}`, `@/${a}/*`, `**/${a}/*`, `../${a}`]),
            message: `${folder} must not know what lies above it.`,
          },
          ...(folder === 'src/core'
            ? [
                {
                  group: ['react', 'react-dom', 'next', 'next/*', 'pg', 'drizzle-orm', 'drizzle-orm/*', 'node:*'],
                  message: 'The core knows no interface, no database and no platform.',
                },
              ]
            : []),
        ],
      },
    ],
  },
}));

export default ts.config(
  {
    ignores: [
      'node_modules',
      '.next',
      '.brindle',
      'next-env.d.ts',
      'drizzle',
      'test-results',
      'src/kernels/assembly',
      'src/kernels/build',
    ],
  },
  js.configs.recommended,
  ...ts.configs.recommended,
  { plugins: { 'react-hooks': hooks }, rules: { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'error' } },
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'no-control-regex': 'off',
    },
  },
  {
    // Same input, same bytes: no clock and no chance in the core.
    files: ['src/core/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random' },
        { object: 'Date', property: 'now' },
        { object: 'performance', property: 'now' },
      ],
      'no-restricted-globals': ['error', 'window', 'document', 'navigator', 'indexedDB', 'fetch'],
    },
  },
  ...downward,
  prettier,
);
