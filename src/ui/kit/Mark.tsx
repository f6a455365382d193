/** The mark: uneven tawny and dark stripes. The brindle appears here and nowhere else. */
export function Mark({ size = 20 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 32 32" aria-hidden="true">
      <rect width="32" height="32" rx="7" fill="#b4672f" />
      <path
        d="M6 3c2 6-2 9 0 14s-1 8 1 12h3c-2-5 2-8 0-13s2-8 0-13zM15 2c2 7-2 11 0 16s-1 8 0 12h4c-2-5 2-8 0-13s1-9 0-15zM24 3c1 5-2 8 0 13s-2 9-1 13h3c0-5 2-8 0-13s2-8 1-13z"
        fill="#2a1a10"
      />
    </svg>
  );
}
