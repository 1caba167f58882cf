import { t } from '@lingui/core/macro';
import { show as showKeys } from '../base/keys/binding';
import { pageLayer } from '../base/keys/dispatcher';
import { useKnownKeys } from '../base/keys/useKey';
import { Key } from '../parts/bits';
import { CloseFoot, Dialog } from '../parts/Dialog';

const order = [t`On this page`, t`In the list`, t`Everywhere`, t`Go to`];

/** All keys that do something on the page now. */
export function KeysHelp({ close }: { close: () => void }) {
  const known = useKnownKeys().filter((k) => k.layer === pageLayer);
  const groups = [...new Set(known.map((k) => k.group))].sort((a, b) => order.indexOf(a) - order.indexOf(b));
  return (
    <Dialog title={t`Keyboard shortcuts`} close={close} wide="more">
      <div className="max-h-[60vh] columns-3 gap-x-8 overflow-y-auto">
        {groups.map((g) => (
          <section key={g} className="mb-4 break-inside-avoid">
            <h3 className="mb-1.5 text-mute">{g}</h3>
            {known
              .filter((k) => k.group === g)
              .map((k) => (
                <div key={k.does} className="flex items-start justify-between gap-3 py-0.5">
                  <span>{k.does}</span>
                  <span className="flex shrink-0 gap-1">
                    {k.keys.map((one) => (
                      <Key key={showKeys(one)}>{showKeys(one)}</Key>
                    ))}
                  </span>
                </div>
              ))}
          </section>
        ))}
      </div>
      <CloseFoot close={close} />
    </Dialog>
  );
}
