import '@fontsource-variable/public-sans';
import './join.css';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { JoinPage } from './JoinPage.tsx';
import { tellHeight } from './framed.ts';

const place = document.getElementById('page');
if (place) {
  tellHeight();
  createRoot(place).render(
    <StrictMode>
      <JoinPage />
    </StrictMode>,
  );
}
