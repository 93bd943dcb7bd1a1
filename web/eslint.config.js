import js from '@eslint/js';
import jsxA11y from 'eslint-plugin-jsx-a11y';
import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

export default tseslint.config(
  { ignores: ['dist', 'src/api/schema.ts'] },
  js.configs.recommended,
  {
    files: ['src/**/*.{ts,tsx}'],
    extends: [...tseslint.configs.strict, jsxA11y.flatConfigs.recommended],
    plugins: { 'react-hooks': reactHooks },
    // The other rules of React are looked at by its compiler, in the build: it need not run twice.
    languageOptions: { parserOptions: { projectService: true } },
    rules: {
      // What only types tell: what would be shown as “[object Object]”, and promises that nobody waits for.
      '@typescript-eslint/no-base-to-string': 'error',
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': 'error',
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true, allowBoolean: true }],
      'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'error', 'jsx-a11y/no-autofocus': 'off',
    },
  },
);
