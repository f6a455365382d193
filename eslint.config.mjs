import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import hooks from 'eslint-plugin-react-hooks';
import ts from 'typescript-eslint';

// Which folder may know which: .dependency-cruiser.mjs.
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
  prettier,
);
