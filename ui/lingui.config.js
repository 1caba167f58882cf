import { formatter } from '@lingui/format-po';

/** Two catalogues: of the texts in the pages, collected by Lingui; and of what the server says, by scripts/messages. */
export default {
  locales: ['en'],
  sourceLocale: 'en',
  format: formatter({ origins: true, lineNumbers: false }),
  catalogs: [{ path: '<rootDir>/src/locales/page/{locale}', include: ['<rootDir>/src'], exclude: ['**/*.test.*'] }],
  // Texts are taken from the language that is set already, however the code is cut into files.
  runtimeConfigModule: { i18n: ['journeyman/language', 'i18n'], Trans: ['@lingui/react', 'Trans'] },
};
