// The dialogs of the frame: their code comes when the first of them is opened, or when there is nothing else to do.
export { Actions } from './actions';
export { FindDialog } from './found';
export { KeysHelp } from './KeysHelp';
