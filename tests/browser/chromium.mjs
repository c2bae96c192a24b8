// Debian's Chromium without a window: the package that has nothing else where there is one, since it needs half the time, or the whole browser.
import { existsSync } from 'node:fs';

export const chromiumPath = ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium'].find(path => existsSync(path));
