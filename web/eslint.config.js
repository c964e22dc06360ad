import vue from 'eslint-plugin-vue'
import tseslint from 'typescript-eslint'

export default tseslint.config(
  { ignores: ['dist', 'src/api/generated.ts'] },
  ...tseslint.configs.recommended,
  ...vue.configs['flat/essential'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: tseslint.parser } },
    rules: { 'vue/multi-word-component-names': 'off', 'vue/max-len': ['error', { code: 140, template: 140 }] },
  },
  { files: ['**/*.ts'], rules: { 'max-len': ['error', { code: 140 }] } },
  {
    files: ['src/canvas/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        { paths: ['vue', 'pinia'], patterns: ['primevue/*', '@/stores/*', '@/components/*', '@/views/*'] },
      ],
    },
  },
)
