import { t } from '@lingui/core/macro';
import { createRootRoute, createRoute, createRouter, lazyRouteComponent, Link } from '@tanstack/react-router';
import { searches } from '../base/search';
import { Page } from '../parts/Page';
import { fetchDialogs } from './palette';
import { fetchRegion } from './toasts';
import { Root } from './root';
import { Empty, Failed } from '../parts/states';

const root = createRootRoute({
  component: Root,
  notFoundComponent: () => (
    <Page>
      <Empty title={t`There is no such page.`}>
        <Link to="/" className="ref">
          {t`Go to Today`}
        </Link>
      </Empty>
    </Page>
  ),
  errorComponent: ({ error, reset }) => (
    <div className="p-6">
      <Failed error={error instanceof Error ? error : new Error(String(error))} again={reset} />
    </div>
  ),
});

/** The code of the frame's dialogs, of what tells of what was done, and of all pages. */
const codes: (() => Promise<unknown>)[] = [fetchDialogs, fetchRegion];

/** A page comes when it is opened, or a little before. */
const page = <P extends string, N extends string, S extends (typeof searches)[keyof typeof searches]>(
  path: P,
  load: () => Promise<Record<N, () => React.ReactNode>>,
  name: N,
  search: S,
) => {
  codes.push(load);
  return createRoute({
    getParentRoute: () => root,
    path,
    component: lazyRouteComponent(load, name),
    validateSearch: search,
  });
};

const tree = root.addChildren([
  page('/', () => import('../pages/today/TodayPage'), 'TodayPage', searches.shown),
  page('/orders', () => import('../pages/orders/OrdersPage'), 'OrdersPage', searches.orders),
  page('/orders/$number', () => import('../pages/order/OrderPage'), 'OrderPage', searches.none),
  page('/entry', () => import('../pages/entry/EntryPage'), 'EntryPage', searches.entry),
  page('/quotes', () => import('../pages/quotes/QuotesPage'), 'QuotesPage', searches.stated),
  page('/quotes/$number', () => import('../pages/quote/QuotePage'), 'QuotePage', searches.none),
  page('/buying', () => import('../pages/buying/BuyingPage'), 'BuyingPage', searches.words),
  page('/settings', () => import('../pages/settings/SettingsPage'), 'SettingsPage', searches.none),
  page('/people', () => import('../pages/people/PeoplePage'), 'PeoplePage', searches.none),
  page('/shortages', () => import('../pages/contested/ContestedPage'), 'ContestedPage', searches.shortages),
  page('/allocation', () => import('../pages/run/RunPage'), 'RunPage', searches.allocation),
  page('/policies', () => import('../pages/policies/PoliciesPage'), 'PoliciesPage', searches.none),
  page('/journal', () => import('../pages/journal/JournalPage'), 'JournalPage', searches.stated),
  page('/open', () => import('../pages/open/OpenPage'), 'OpenPage', searches.list),
  page('/promise', () => import('../pages/promise/PromisePage'), 'PromisePage', searches.promise),
  page('/release', () => import('../pages/release/ReleasePage'), 'ReleasePage', searches.release),
  page('/floor', () => import('../pages/floor/FloorPage'), 'FloorPage', searches.stated),
  page('/floor/$number', () => import('../pages/picklist/PickListPage'), 'PickListPage', searches.paper),
  page('/pick', () => import('../pages/pick/PickPage'), 'PickPage', searches.none),
  page('/pick/$number', () => import('../pages/pick/PickingPage'), 'PickingPage', searches.sheet),
  page('/counts', () => import('../pages/pick/CountsPage'), 'CountsPage', searches.none),
  page('/put-back', () => import('../pages/pick/PutBackPage'), 'PutBackPage', searches.none),
  page('/pack', () => import('../pages/pick/PackPage'), 'PackPage', searches.none),
  page('/pack/$number', () => import('../pages/pick/BenchPage'), 'BenchPage', searches.bench),
  page('/receive', () => import('../pages/pick/ReceivePage'), 'ReceivePage', searches.none),
  page('/lots', () => import('../pages/lots/LotsPage'), 'LotsPage', searches.stated),
  page('/papers', () => import('../pages/papers/PapersPage'), 'PapersPage', searches.stated),
  page('/packing', () => import('../pages/packing/PackingPage'), 'PackingPage', searches.list),
  page('/dock', () => import('../pages/dock/DockPage'), 'DockPage', searches.stated),
  page('/shipments/$number', () => import('../pages/shipment/ShipmentPage'), 'ShipmentPage', searches.none),
  page('/inbound', () => import('../pages/inbound/InboundPage'), 'InboundPage', searches.stated),
  page('/items', () => import('../pages/items/ItemsPage'), 'ItemsPage', searches.list),
  page('/items/$number', () => import('../pages/item/ItemPage'), 'ItemPage', searches.none),
  page('/customers', () => import('../pages/customers/CustomersPage'), 'CustomersPage', searches.list),
  page('/customers/$number', () => import('../pages/customer/CustomerPage'), 'CustomerPage', searches.none),
  page('/import', () => import('../pages/imports/ImportPage'), 'ImportPage', searches.none),
  page('/licences', () => import('../pages/licences/LicencesPage'), 'LicencesPage', searches.words),
]);

export const router = createRouter({ routeTree: tree, defaultPreload: 'intent', defaultPreloadDelay: 30 });

// The server has been renewed while the page was open: what it has now is fetched anew.
addEventListener('vite:preloadError', () => location.reload());

/** Fetches the code of the other pages when there is nothing else to do, so that a key that leads to one is answered at once. */
export function fetchPages() {
  const next = () => {
    const load = codes.shift();
    if (load) void load().then(() => setTimeout(next, 30));
  };
  addEventListener('load', () => setTimeout(next, 1500), { once: true });
}

declare module '@tanstack/react-router' {
  interface Register {
    router: typeof router;
  }
}
