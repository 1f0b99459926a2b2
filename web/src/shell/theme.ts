/** The two themes: paper and ink, and the dark room. */
export type Theme = "light" | "dark";

const KEY = "kestrel-theme";

/** The theme of last time; the system's where there is none. */
export function savedTheme(): Theme {
  const saved = localStorage.getItem(KEY);
  if (saved === "light" || saved === "dark") return saved;
  return window.matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

/** Shows a theme and keeps it. */
export function applyTheme(theme: Theme): void {
  document.documentElement.dataset["theme"] = theme;
  localStorage.setItem(KEY, theme);
}
