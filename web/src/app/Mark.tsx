/** The mark: a circle and a square that touch. */
export function Mark() {
  return (
    <svg width="26" height="14" viewBox="0 0 26 14" aria-hidden="true">
      <circle cx="6.5" cy="7" r="6" fill="var(--marine)" />
      <rect x="12.5" y="1" width="12" height="12" fill="var(--rust)" />
    </svg>
  );
}
