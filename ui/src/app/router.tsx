import { createRootRoute, createRoute, createRouter, Link } from '@tanstack/react-router';
import { listSearch } from '../base/search';
import { Page } from '../parts/Page';
import { Root } from './root';
import { Empty, Failed } from '../parts/states';
import { CustomerPage } from '../pages/customer/CustomerPage';
import { CustomersPage } from '../pages/customers/CustomersPage';
import { DockPage } from '../pages/dock/DockPage';
import { ContestedPage } from '../pages/contested/ContestedPage';
import { BuyingPage } from '../pages/buying/BuyingPage';
import { EntryPage } from '../pages/entry/EntryPage';
import { FloorPage } from '../pages/floor/FloorPage';
import { ImportPage } from '../pages/imports/ImportPage';
import { InboundPage } from '../pages/inbound/InboundPage';
import { ItemPage } from '../pages/item/ItemPage';
import { ItemsPage } from '../pages/items/ItemsPage';
import { LicencesPage } from '../pages/licences/LicencesPage';
import { OpenPage } from '../pages/open/OpenPage';
import { OrderPage } from '../pages/order/OrderPage';
import { OrdersPage } from '../pages/orders/OrdersPage';
import { PackingPage } from '../pages/packing/PackingPage';
import { PeoplePage } from '../pages/people/PeoplePage';
import { PickListPage } from '../pages/picklist/PickListPage';
import { PoliciesPage } from '../pages/policies/PoliciesPage';
import { PromisePage } from '../pages/promise/PromisePage';
import { QuotePage } from '../pages/quote/QuotePage';
import { QuotesPage } from '../pages/quotes/QuotesPage';
import { ReleasePage } from '../pages/release/ReleasePage';
import { RunPage } from '../pages/run/RunPage';
import { SettingsPage } from '../pages/settings/SettingsPage';
import { ShipmentPage } from '../pages/shipment/ShipmentPage';
import { TodayPage } from '../pages/today/TodayPage';

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

const page = <P extends string>(path: P, component: () => React.ReactNode) =>
  createRoute({ getParentRoute: () => root, path, component, validateSearch: listSearch });

const tree = root.addChildren([
  page('/', TodayPage),
  page('/orders', OrdersPage),
  page('/orders/$number', OrderPage),
  page('/entry', EntryPage),
  page('/quotes', QuotesPage),
  page('/quotes/$number', QuotePage),
  page('/buying', BuyingPage),
  page('/settings', SettingsPage),
  page('/people', PeoplePage),
  page('/shortages', ContestedPage),
  page('/allocation', RunPage),
  page('/policies', PoliciesPage),
  page('/open', OpenPage),
  page('/promise', PromisePage),
  page('/release', ReleasePage),
  page('/floor', FloorPage),
  page('/floor/$number', PickListPage),
  page('/packing', PackingPage),
  page('/dock', DockPage),
  page('/shipments/$number', ShipmentPage),
  page('/inbound', InboundPage),
  page('/items', ItemsPage),
  page('/items/$number', ItemPage),
  page('/customers', CustomersPage),
  page('/customers/$number', CustomerPage),
  page('/import', ImportPage),
  page('/licences', LicencesPage),
]);

export const router = createRouter({ routeTree: tree, defaultPreload: false });

declare module '@tanstack/react-router' {
  interface Register {
    router: typeof router;
  }
}
