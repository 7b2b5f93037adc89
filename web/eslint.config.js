import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import a11y from 'eslint-plugin-vuejs-accessibility'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['dist', 'src/api/schema.ts'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  ...a11y.configs['flat/recommended'],
  {
    files: ['src/**/*.ts', 'src/**/*.vue'],
    languageOptions: {
      parserOptions: { parser: ts.parser, projectService: true, extraFileExtensions: ['.vue'] },
    },
    rules: {
      // A promise that nobody waits for hides its failure: it is awaited, or marked with void.
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/await-thenable': 'error',
    },
  },
  {
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { varsIgnorePattern: '^_' }],
      'vue/multi-word-component-names': 'off',
      'vuejs-accessibility/label-has-for': [
        'error',
        { required: { some: ['nesting', 'id'] }, controlComponents: ['DepthSelect'] }, // which is one select
      ],
      // A dialog puts the focus on its first field; a page that is one form does, too.
      'vuejs-accessibility/no-autofocus': 'off',
      // Grids, lists and menus have one stop for Tab, and arrows move within them (ARIA APG):
      // their rows, cells and options are not focused one by one.
      'vuejs-accessibility/interactive-supports-focus': 'off',
      'vuejs-accessibility/click-events-have-key-events': 'off',
      // Keys bubble to the dialog or grid that answers them, and what is dragged moves by keys, too.
      'vuejs-accessibility/no-static-element-interactions': 'off',
    },
  },
  prettier, // layout is the formatter's
)
