<svg viewBox="0 0 24 22" aria-hidden="true"><path d="M2 9 L22 5 M12 7.6 L17 20 H7 Z" stroke-linejoin="round"/></svg>
