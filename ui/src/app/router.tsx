import { createRootRoute, createRoute, createRouter, lazyRouteComponent, Link } from '@tanstack/react-router';
import { listSearch } from '../base/search';
import { Page } from '../parts/Page';
import { Root } from './root';
import { Empty, Failed } from '../parts/states';

const root = createRootRoute({
  component: Root,
  notFoundComponent: () => (
    <Page>
      <Empty title="There is no such page.">
        <Link to="/" className="ref">
          Go to Today
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

/** The code of all pages. */
const codes: (() => Promise<unknown>)[] = [];

/** A page comes when it is opened, or a little before. */
const page = <P extends string, N extends string>(path: P, load: () => Promise<Record<N, () => React.ReactNode>>, name: N) => {
  codes.push(load);
  return createRoute({
    getParentRoute: () => root,
    path,
    component: lazyRouteComponent(load, name),
    validateSearch: listSearch,
  });
};

const tree = root.addChildren([
  page('/', () => import('../pages/today/TodayPage'), 'TodayPage'),
  page('/orders', () => import('../pages/orders/OrdersPage'), 'OrdersPage'),
  page('/orders/$number', () => import('../pages/order/OrderPage'), 'OrderPage'),
  page('/entry', () => import('../pages/entry/EntryPage'), 'EntryPage'),
  page('/quotes', () => import('../pages/quotes/QuotesPage'), 'QuotesPage'),
  page('/quotes/$number', () => import('../pages/quote/QuotePage'), 'QuotePage'),
  page('/buying', () => import('../pages/buying/BuyingPage'), 'BuyingPage'),
  page('/settings', () => import('../pages/settings/SettingsPage'), 'SettingsPage'),
  page('/people', () => import('../pages/people/PeoplePage'), 'PeoplePage'),
  page('/shortages', () => import('../pages/contested/ContestedPage'), 'ContestedPage'),
  page('/allocation', () => import('../pages/run/RunPage'), 'RunPage'),
  page('/policies', () => import('../pages/policies/PoliciesPage'), 'PoliciesPage'),
  page('/open', () => import('../pages/open/OpenPage'), 'OpenPage'),
  page('/promise', () => import('../pages/promise/PromisePage'), 'PromisePage'),
  page('/release', () => import('../pages/release/ReleasePage'), 'ReleasePage'),
  page('/floor', () => import('../pages/floor/FloorPage'), 'FloorPage'),
  page('/floor/$number', () => import('../pages/picklist/PickListPage'), 'PickListPage'),
  page('/packing', () => import('../pages/packing/PackingPage'), 'PackingPage'),
  page('/dock', () => import('../pages/dock/DockPage'), 'DockPage'),
  page('/shipments/$number', () => import('../pages/shipment/ShipmentPage'), 'ShipmentPage'),
  page('/inbound', () => import('../pages/inbound/InboundPage'), 'InboundPage'),
  page('/items', () => import('../pages/items/ItemsPage'), 'ItemsPage'),
  page('/items/$number', () => import('../pages/item/ItemPage'), 'ItemPage'),
  page('/customers', () => import('../pages/customers/CustomersPage'), 'CustomersPage'),
  page('/customers/$number', () => import('../pages/customer/CustomerPage'), 'CustomerPage'),
  page('/import', () => import('../pages/imports/ImportPage'), 'ImportPage'),
  page('/licences', () => import('../pages/licences/LicencesPage'), 'LicencesPage'),
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
