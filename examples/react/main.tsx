import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Stroll } from './stroll.js';

createRoot(document.getElementById('app') as HTMLElement).render(
  <StrictMode>
    <Stroll />
  </StrictMode>,
);
