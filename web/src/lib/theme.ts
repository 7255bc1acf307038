import type { GlobalThemeOverrides } from 'naive-ui'

/** Naive UI in the drawing's own ink: square corners, ruled borders, big targets. */
export function overrides(night: boolean): GlobalThemeOverrides {
  const c = night
    ? { ink: '#dce8e3', ink2: '#a3b9b8', rule: '#4a656b', sheet: '#12242a', paper: '#0d1a1e', brass: '#e2a33b' }
    : { ink: '#12323c', ink2: '#46626a', rule: '#6f8788', sheet: '#f8faf6', paper: '#eef1ec', brass: '#b97a14' }
  return {
    common: {
      fontFamily: 'Barlow, sans-serif',
      fontSize: '17px',
      fontSizeMedium: '17px',
      primaryColor: c.ink,
      primaryColorHover: c.brass,
      primaryColorPressed: c.ink,
      primaryColorSuppl: c.ink,
      textColorBase: c.ink,
      textColor1: c.ink,
      textColor2: c.ink,
      textColor3: c.ink2,
      placeholderColor: c.ink2,
      borderColor: c.rule,
      bodyColor: c.paper,
      cardColor: c.sheet,
      modalColor: c.sheet,
      popoverColor: c.sheet,
      inputColor: c.sheet,
      borderRadius: '2px',
      heightMedium: '48px',
      heightLarge: '56px',
    },
    Input: { textColor: c.ink, caretColor: c.ink, border: `1.5px solid ${c.rule}`, boxShadowFocus: 'none' },
    Card: { borderRadius: '2px' },
  }
}
