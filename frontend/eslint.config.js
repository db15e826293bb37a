import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['src/api/schema.ts', 'components.d.ts', 'node_modules/**', 'public/**'] },
  ...ts.configs.strict,
  ...vue.configs['flat/recommended'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: ts.parser } } },
  {
    rules: {
      'vue/block-order': ['error', { order: ['script', 'template'] }],
      'vue/no-v-html': 'error',
      'vue/require-default-prop': 'off',
      '@typescript-eslint/no-non-null-assertion': 'error',
    },
  },
  { files: ['tests/**'], rules: { '@typescript-eslint/no-non-null-assertion': 'off' } },
  prettier,
)
