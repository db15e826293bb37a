// Sets the theme before the first paint, so that a dark page never flashes white.
(function () {
  var wanted = 'auto'
  try {
    wanted = localStorage.getItem('hieranome-theme') || 'auto'
  } catch (e) {
    wanted = 'auto'
  }
  var dark = wanted === 'dark' || (wanted === 'auto' && matchMedia('(prefers-color-scheme: dark)').matches)
  document.documentElement.setAttribute('data-bs-theme', dark ? 'dark' : 'light')
})()
