import js from '@eslint/js';
import a11y from 'eslint-plugin-jsx-a11y';
import hooks from 'eslint-plugin-react-hooks';
import ts from 'typescript-eslint';

export default ts.config(
  { ignores: ['dist', 'node_modules', 'src/api/schema.d.ts'] },
  js.configs.recommended,
  ...ts.configs.strict,
  a11y.flatConfigs.recommended,
  { plugins: { 'react-hooks': hooks }, rules: hooks.configs.recommended.rules },
  {
    rules: {
      // A feature is entered through its own folder only; ui and api are for everybody.
      // An error of asking anew never takes the place of what is shown: see ui/asked.
      'no-restricted-syntax': [
        'error',
        {
          selector: "IfStatement[test.property.name='error'] > ReturnStatement:has(JSXElement)",
          message: 'Show what was answered before, with a note: use Asked or Stale.',
        },
      ],
      'no-restricted-imports': [
        'error',
        {
          // What is said of one call must not be lost when the page is drawn anew: see api/write.
          paths: [{ name: '@tanstack/react-query', importNames: ['useMutation'], message: 'Use useAct or useWrite of api/write.' }],
          patterns: [{ group: ['../../features/*', '../*/parts/*'], message: 'Import from ui or api, not from inside another feature.' }],
        },
      ],
    },
  },
  { files: ['src/api/write.ts'], rules: { 'no-restricted-imports': 'off' } },
);
