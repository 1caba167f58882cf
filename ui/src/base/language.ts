import { i18n } from '@lingui/core';
import { compileMessage } from '@lingui/message-utils/compileMessage';
import { locale } from './locale';

type Compiled = ReturnType<typeof compileMessage>;
const compiled = new Map<string, Compiled>();

// Texts stand in the source in English, and are compiled when they are first shown: so English needs no catalogue.
i18n.setMessagesCompiler((text) => {
  let message = compiled.get(text);
  if (message === undefined) compiled.set(text, (message = compileMessage(text)));
  return message;
});
i18n.load('en', {});
i18n.activate('en', locale);

/** The language of the interface. Whatever takes a text from it comes after this. */
export { i18n };
