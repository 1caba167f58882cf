import { t } from '@lingui/core/macro';
import { useNavigate } from '@tanstack/react-router';
import { useState } from 'react';
import { ask, client } from '../../api/call';
import { plural } from '../../base/format';
import { say } from '../../base/say';
import { sound } from '../../base/sound';

/** Takes a scanned sheet, package or order to where its order is packed; of several orders on a sheet one is to be chosen. */
export function useJobScan() {
  const go = useNavigate();
  const [heard, setHeard] = useState<{ kind: 'right' | 'wrong'; text: string }>();
  const [only, setOnly] = useState<string[]>();
  const open = (order: string, warehouse?: string) =>
    void go({ to: '/pack/$number', params: { number: order }, search: { at: warehouse } });
  const wrong = (text: string) => {
    setHeard({ kind: 'wrong', text });
    sound(false);
  };
  const take = async (text: string) => {
    const code = text.trim();
    setHeard(undefined);
    if (code === '') {
      setOnly(undefined);
      return void go({ to: '/pack' });
    }
    try {
      const s = await ask(client.GET('/api/scan/{number}', { params: { path: { number: code } } }));
      const refused = say(s.refused);
      const [order, ...more] = s.orders;
      if (refused || !order) return wrong(refused || t`${code} has nothing to pack.`);
      sound(true);
      if (more.length === 0) return open(order);
      setOnly(s.orders);
      setHeard({ kind: 'right', text: t`${s.code} has ${plural(s.orders.length, 'order')}. Scan or choose one.` });
    } catch (e) {
      wrong(e instanceof Error ? e.message : String(e));
    }
  };
  return { take: (text: string) => void take(text), open, heard, only };
}
