import { formatter } from '@lingui/format-po';

/** The catalogue of what the server says is collected from its source by scripts/messages. */
export default {
  locales: ['en'],
  sourceLocale: 'en',
  format: formatter({ origins: false }),
  catalogs: [{ path: '<rootDir>/src/locales/server/{locale}', include: [] }],
};
