import regexp from 'eslint-plugin-regexp'
import vue from 'eslint-plugin-vue'
import tseslint from 'typescript-eslint'

const browser = Object.fromEntries(
  ['document', 'window', 'localStorage', 'navigator', 'EventSource', 'URL', 'Blob', 'setTimeout', 'clearTimeout', 'setInterval', 'clearInterval', 'Intl', 'MessageEvent', 'KeyboardEvent', 'HTMLElement', 'HTMLInputElement', 'HTMLTableRowElement'].map((name) => [name, 'readonly']),
) // oxfmt-ignore

/** The console's components, whose templates oxlint does not read; their scripts are read with their types by `scripts/lint-components.mjs`. Everything else is .oxlintrc.json's. */
export default tseslint.config({
  files: ['packages/console/src/**/*.vue'],
  plugins: { regexp },
  extends: [tseslint.configs.recommended, vue.configs['flat/recommended']],
  languageOptions: { globals: browser, parserOptions: { parser: tseslint.parser } },
  rules: {
    'max-lines': ['error', 400],
    'max-lines-per-function': ['error', 80],
    'regexp/no-super-linear-backtracking': 'error',
    'regexp/no-super-linear-move': 'error',
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
})
