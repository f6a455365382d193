export type Scheme = 'plaster' | 'slate';

export function storedScheme(): Scheme {
  try {
    return localStorage.getItem('brindle-scheme') === 'slate' ? 'slate' : 'plaster';
  } catch {
    return 'plaster';
  }
}

export function applyScheme(scheme: Scheme): void {
  document.documentElement.dataset.scheme = scheme;
  try {
    localStorage.setItem('brindle-scheme', scheme);
  } catch {
    // Private windows may forbid it; the scheme then lasts as long as the page.
  }
}

export function toggleScheme(): void {
  applyScheme(storedScheme() === 'slate' ? 'plaster' : 'slate');
}
