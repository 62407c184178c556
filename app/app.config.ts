export default defineAppConfig({
  ui: {
    colors: {
      primary: 'petrol',
      secondary: 'apricot',
      success: 'moss',
      error: 'brick',
      warning: 'apricot',
      info: 'petrol',
      neutral: 'stone',
    },
  },
})
