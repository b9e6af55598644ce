import { ref, watchEffect } from 'vue'

type Theme = 'auto' | 'light' | 'dark'
const KEY = 'bathyscribe-theme'
const prefersDark = window.matchMedia('(prefers-color-scheme: dark)')

export const theme = ref<Theme>((localStorage.getItem(KEY) as Theme | null) ?? 'auto')

export function applyTheme(): void {
  const apply = () => {
    const dark = theme.value === 'dark' || (theme.value === 'auto' && prefersDark.matches)
    document.documentElement.dataset['bsTheme'] = dark ? 'dark' : 'light'
  }
  prefersDark.addEventListener('change', apply)
  watchEffect(() => {
    localStorage.setItem(KEY, theme.value)
    apply()
  })
}
