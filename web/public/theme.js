// Sets the chosen theme before anything is painted. A file of its own: the content security policy allows no inline script.
document.documentElement.dataset.theme =
  localStorage.getItem("theme") ?? (matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light");
