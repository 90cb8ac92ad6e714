import js from '@eslint/js'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['dist', 'src/api/schema.d.ts'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...vue.configs['flat/essential'],
  {
    files: ['**/*.vue', '**/*.ts'],
    languageOptions: { parserOptions: { parser: ts.parser } },
    rules: {
      'no-undef': 'off',
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-non-null-assertion': 'error',
      'vue/multi-word-component-names': 'error',
    },
  },
  {
    files: ['src/**/*.ts', 'src/**/*.vue'],
    ignores: ['src/api/client.ts', 'src/api/download.ts'],
    rules: { 'no-restricted-globals': ['error', { name: 'fetch', message: 'Use api/client.' }] },
  },
)
