import { lazy, Suspense } from 'react';
import { Link, type RouteObject } from 'react-router';
import { Frame } from '../frame/frame';
import { PageFailed } from '../frame/page-failed';
import { Empty, Loading } from '../ui/states';

const page = (load: () => Promise<{ default: React.ComponentType }>) => {
  const Page = lazy(load);
  return (
    <Suspense fallback={<Loading />}>
      <Page />
    </Suspense>
  );
};

/** Every page and its address. */
export const routes: RouteObject[] = [
  { path: '/sign-in', element: page(() => import('../frame/sign-in')), errorElement: <PageFailed /> },
  { path: '/welcome/:token', element: page(() => import('../frame/set-password')), errorElement: <PageFailed /> },
  {
    path: '/',
    element: <Frame />,
    errorElement: <PageFailed />,
    children: [
      {
        errorElement: <PageFailed />,
        children: [
          { index: true, element: page(() => import('../today/today')) },
          { path: 'tasks', element: page(() => import('../tasks/tasks')) },
          { path: 'people', element: page(() => import('../contacts/people')) },
          { path: 'people/worklists', element: page(() => import('../tasks/worklists')) },
          { path: 'people/worklists/:id', element: page(() => import('../tasks/worklist')) },
          { path: 'people/duplicates', element: page(() => import('../contacts/duplicates')) },
          { path: 'people/deals', element: page(() => import('../deals/board')) },
          { path: 'people/changes', element: page(() => import('../contacts/changes')) },
          { path: 'people/companies', element: page(() => import('../companies/companies')) },
          { path: 'people/companies/:id', element: page(() => import('../companies/company')) },
          { path: 'people/:id', element: page(() => import('../contacts/contact')) },
          { path: 'intake', element: page(() => import('../intake/intake')) },
          { path: 'intake/stream', element: page(() => import('../intake/stream')) },
          { path: 'intake/stand-ins', element: page(() => import('../intake/stand-ins')) },
          { path: 'intake/files', element: page(() => import('../intake/files')) },
          { path: 'intake/site', element: page(() => import('../intake/site')) },
          { path: 'intake/watched/:id', element: page(() => import('../intake/watched')) },
          { path: 'intake/webhooks/:id', element: page(() => import('../intake/webhook')) },
          { path: 'intake/import', element: page(() => import('../intake/import-contacts')) },
          { path: 'intake/forms/:key', element: page(() => import('../intake/form-builder')) },
          { path: 'tags', element: page(() => import('../tags/tag-plan')) },
          { path: 'tags/families/:key', element: page(() => import('../tags/family-page')) },
          { path: 'tags/:key', element: page(() => import('../tags/tag-page')) },
          { path: 'rules', element: page(() => import('../rules/rules')) },
          { path: 'rules/depends/all', element: page(() => import('../rules/depends')) },
          { path: 'rules/ladder/funnel', element: page(() => import('../rules/funnel')) },
          { path: 'rules/bundles/:key', element: page(() => import('../rules/bundle')) },
          { path: 'rules/maps/:key', element: page(() => import('../rules/signal-map')) },
          { path: 'rules/routing/:key', element: page(() => import('../rules/routing')) },
          { path: 'rules/:key', element: page(() => import('../rules/rule')) },
          { path: 'scores', element: page(() => import('../scores/scores')) },
          { path: 'scores/:key', element: page(() => import('../scores/scorecard')) },
          { path: 'audiences', element: page(() => import('../audiences/audiences')) },
          { path: 'audiences/:key', element: page(() => import('../audiences/audience')) },
          { path: 'campaigns', element: page(() => import('../campaigns/campaigns')) },
          { path: 'campaigns/post-room', element: page(() => import('../campaigns/post-room')) },
          { path: 'campaigns/:key', element: page(() => import('../campaigns/campaign')) },
          { path: 'ledger', element: page(() => import('../ledger/ledger')) },
          { path: 'settings/api', element: page(() => import('../settings/api-page')) },
          { path: 'settings/signal-types/:key', element: page(() => import('../settings/signal-type-page')) },
          { path: 'settings/fields/:key', element: page(() => import('../settings/field-page')) },
          {
            path: 'settings',
            element: page(() => import('../settings/settings')),
            children: [
              { index: true, element: page(() => import('../settings/workspace')) },
              { path: 'fields', element: page(() => import('../settings/fields')) },
              { path: 'stages', element: page(() => import('../settings/stages')) },
              { path: 'signal-types', element: page(() => import('../settings/signal-types')) },
              { path: 'people', element: page(() => import('../settings/persons')) },
              { path: 'keys', element: page(() => import('../settings/keys')) },
              { path: 'account', element: page(() => import('../settings/account')) },
            ],
          },
          {
            path: '*',
            element: (
              <Empty title="There is no such page">
                <Link to="/" className="leads">
                  To Today
                </Link>
              </Empty>
            ),
          },
        ],
      },
    ],
  },
];
