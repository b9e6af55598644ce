import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { watchEffect } from 'vue'

type Theme = 'auto' | 'light' | 'dark'
const prefersDark = usePreferredDark()

export const theme = useLocalStorage<Theme>('bathyscribe-theme', 'auto')

export function applyTheme(): void {
  watchEffect(() => {
    const dark = theme.value === 'dark' || (theme.value === 'auto' && prefersDark.value)
    document.documentElement.dataset['bsTheme'] = dark ? 'dark' : 'light'
  })
}
