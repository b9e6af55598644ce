import regexp from 'eslint-plugin-regexp'
import vue from 'eslint-plugin-vue'
import tseslint from 'typescript-eslint'

const browser = Object.fromEntries(
  ['document', 'window', 'localStorage', 'navigator', 'EventSource', 'URL', 'Blob', 'setTimeout', 'clearTimeout', 'setInterval', 'clearInterval', 'Intl', 'MessageEvent', 'KeyboardEvent', 'HTMLElement', 'HTMLInputElement', 'HTMLTableRowElement'].map((name) => [name, 'readonly']),
) // prettier-ignore

export default tseslint.config(
  { ignores: ['**/dist/**', '.run/**', 'node_modules/**'] },
  {
    // What strangers send is read by one thread for everybody: an expression whose time grows faster than its text is a way to stop it.
    files: ['packages/*/src/**/*.{ts,vue}', 'scripts/**/*.mjs'],
    plugins: { regexp },
    rules: { 'regexp/no-super-linear-backtracking': 'error', 'regexp/no-super-linear-move': 'error' },
  },
  {
    files: ['packages/*/src/**/*.ts'],
    extends: [tseslint.configs.strictTypeChecked],
    languageOptions: {
      parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname },
    },
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true, allowBoolean: true }],
      '@typescript-eslint/no-confusing-void-expression': 'off',
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', destructuredArrayIgnorePattern: '^_' },
      ],
      '@typescript-eslint/no-unnecessary-condition': 'off',
      '@typescript-eslint/no-dynamic-delete': 'off',
      '@typescript-eslint/require-await': 'off',
      '@typescript-eslint/no-extraneous-class': 'off',
      // Record classes carry columns and no behaviour: plain objects of their shape are as good.
      '@typescript-eslint/no-unsafe-class-instance-assignment': 'off',
      '@typescript-eslint/no-misused-spread': 'off',
      '@typescript-eslint/no-base-to-string': 'off',
      '@typescript-eslint/no-unnecessary-type-parameters': 'off',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'no-console': 'error',
    },
  },
  {
    files: ['**/test/**/*.ts', 'test/**/*.ts', 'packages/*/vite.config.ts', 'vitest.config.ts'],
    extends: [tseslint.configs.recommended, tseslint.configs.disableTypeChecked],
    rules: { '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }] },
    languageOptions: { parser: tseslint.parser, parserOptions: { projectService: false, project: false } },
  },
  {
    files: ['packages/console/src/**/*.vue'],
    extends: [tseslint.configs.recommended, vue.configs['flat/recommended']],
    languageOptions: { globals: browser, parserOptions: { parser: tseslint.parser } },
    rules: {
      'vue/multi-word-component-names': 'off',
      'vue/max-attributes-per-line': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/multiline-html-element-content-newline': 'off',
      'vue/html-self-closing': 'off',
      'vue/html-closing-bracket-newline': 'off',
      'vue/html-indent': 'off',
      'vue/require-default-prop': 'off',
      'vue/one-component-per-file': 'error',
      'vue/no-v-html': 'error',
    },
  },
)
