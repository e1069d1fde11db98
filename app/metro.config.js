const { readdirSync } = require('node:fs');
const path = require('node:path');
const { getDefaultConfig } = require('expo/metro-config');
const { withNativeWind } = require('nativewind/metro');

const config = getDefaultConfig(__dirname);
config.watchFolders = [path.resolve(__dirname, '..')];

// Its export map names the build for browsers by the condition "module", which Metro does not know.
const inBrowsers = { 'mediainfo.js': path.resolve(__dirname, '../node_modules/mediainfo.js/dist/esm-bundle/index.js') };
// The schemas' words in sixty languages: a tenth of the page and two fifths of each worker, and nobody sees them.
const isUnseen = (name, from) => /\blocales\/index\b/.test(name) && /[\\/]zod[\\/]/.test(from);
config.resolver.resolveRequest = (context, name, platform) => {
  if (isUnseen(name, context.originModulePath)) return { type: 'empty' };
  return inBrowsers[name]
    ? { type: 'sourceFile', filePath: inBrowsers[name] }
    : context.resolveRequest(context, name, platform);
};

// Each module is evaluated when it is first used: of some fourteen hundred a screen uses a part. An outing opened by its address
// shows its first tile after 0.79 and 0.92 of the time (cold, alternated, two rounds). Not so where pictures are computed: there
// a look for the module at each call would be slow.
const atOnce = ['core', 'app/src/engine'].flatMap((folder) => {
  const from = path.resolve(__dirname, '..', folder);
  const names = readdirSync(from, { recursive: true }).filter((n) => /\.tsx?$/.test(n) && !n.includes('node_modules'));
  return names.map((n) => path.join(from, n));
});
config.transformer.getTransformOptions = async () => ({
  transform: {
    experimentalImportSupport: true,
    inlineRequires: { blockList: Object.fromEntries(atOnce.map((file) => [file, true])) },
  },
});

// In development the page comes from Metro and the data from the server beside it: pass its paths on.
const api = process.env.INKAVO_API;
if (api) {
  const { request } = require('node:http');
  config.server = {
    ...config.server,
    enhanceMiddleware: (metro) => (req, res, next) => {
      if (!req.url.startsWith('/api/')) return metro(req, res, next);
      const target = new URL(req.url, api);
      const out = request(target, { method: req.method, headers: req.headers }, (answer) => {
        res.writeHead(answer.statusCode, answer.headers);
        answer.pipe(res);
      });
      out.on('error', () => {
        res.writeHead(502);
        res.end();
      });
      req.pipe(out);
    },
  };
}

module.exports = withNativeWind(config, { input: './global.css' });
