import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { createBrowserRouter, RouterProvider } from 'react-router';
import { routes } from './app/router';
import { makeStore } from './app/store';
import './app/theme.css';

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
