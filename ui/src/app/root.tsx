import { Frame } from './frame';
import { Signed, useMe } from '../base/session';
import { Toasts } from './toasts';
import { SignIn } from '../pages/signin/SignIn';
import { Failed } from '../parts/states';

/** Nobody signed in: the sign-in page. Else the frame with the page. */
export function Root() {
  const me = useMe();
  if (me.data === undefined && me.error) {
    return (
      <div className="p-6">
        <Failed error={me.error} again={() => void me.refetch()} />
      </div>
    );
  }
  if (me.data === undefined) return null;
  if (me.data === null) return <SignIn />;
  return (
    <Signed value={me.data}>
      <Toasts>
        <Frame />
      </Toasts>
    </Signed>
  );
}
