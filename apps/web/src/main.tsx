import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router/dom';
import { router } from './router.js';
import { store } from './store/store.js';
import { releaseFocusAfterClicks } from './shell/use-keys.js';
import './styles.css';

releaseFocusAfterClicks();

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <Provider store={store}>
      <RouterProvider router={router} />
    </Provider>
  </StrictMode>,
);
