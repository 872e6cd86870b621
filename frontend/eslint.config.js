import js from '@eslint/js'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import globals from 'globals'
import ts from 'typescript-eslint'

/** The features, lowest first: one may use those of the layers below it, and none of its own. */
const LAYERS = [
  ['editing', 'live'],
  ['tables', 'pages', 'defects'],
  ['rehearsing'],
  ['runs'],
  ['workbench', 'flows', 'tests', 'home', 'plans', 'settings', 'stations', 'sign-in'],
]
const apart = (files, group, message) => ({
  files,
  rules: { 'no-restricted-imports': ['error', { patterns: [{ group, message }] }] },
})
const layers = LAYERS.flatMap((layer, place) =>
  layer.map((feature) => {
    const others = LAYERS.slice(place)
      .flat()
      .filter((one) => one !== feature)
    const message = `What ${feature} shares with others stands in a layer below both.`
    return apart(
      [`**/features/${feature}/**`],
      others.map((one) => `@/features/${one}/*`),
      message,
    )
  }),
)

export default ts.config(
  { ignores: ['**/dist/**', 'src/api/schema.d.ts', '**/node_modules/**'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    languageOptions: { globals: { ...globals.browser, ...globals.node } },
    rules: {
      'vue/multi-word-component-names': 'off',
      'vue/no-v-html': 'error',
      'no-undef': 'off',
      'vue/first-attribute-linebreak': 'off', // prettier breaks lines
      'vue/no-restricted-syntax': [
        'error',
        {
          selector:
            ':matches(VElement[name=input], VElement[name=textarea]) > VStartTag' +
            ':has(> VAttribute[directive=true][key.name.name=bind][key.argument.name=value])' +
            ':has(> VAttribute[directive=true][key.name.name=on][key.argument.name=change])',
          message: 'What comes in wipes out what is typed here: use v-held, or Draft.',
        },
      ],
    },
  },
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: ts.parser } } },
  { files: ['../probe/**/*.ts'], rules: { 'no-var': 'off' } },
  ...layers,
  apart(['**/src/shared/**', '**/src/api/**'], ['@/features/*'], 'What all share knows no feature.'),
  apart(['**/src/api/**'], ['@/features/*', '@/shared/*'], 'The API knows nothing of pages.'),
  prettier,
)
