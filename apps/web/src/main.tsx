import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { createBrowserRouter, RouterProvider } from 'react-router';
import { routes } from './app/router';
import { makeStore } from './app/store';
import './app/theme.css';

// Other scripts come when something is written in them; which files hold which is known a moment after the page.
void import('@fontsource-variable/noto-sans-jp/index.css');

const router = createBrowserRouter(routes);
const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <Provider store={makeStore()}>
        <RouterProvider router={router} />
      </Provider>
    </StrictMode>,
  );
}
