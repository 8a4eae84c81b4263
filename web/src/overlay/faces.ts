/** The typefaces of captions; loaded after the page is shown. */
import '@fontsource-variable/bricolage-grotesque'
import '@fontsource/atkinson-hyperlegible/400.css'
