import { site } from './site.ts';

/** The example site: it needs SITE_FOLDER, SITE_PORT and the address of the almanac in its environment. */
const { SITE_FOLDER: folder, SITE_PORT: port = '0', ALMANAC_URL: almanac } = process.env;
if (!folder || !almanac) {
  console.error('The example site needs SITE_FOLDER and ALMANAC_URL in its environment.');
  process.exit(2);
}
const server = site(folder, almanac).listen(Number(port), '127.0.0.1', () => {
  const address = server.address();
  console.log(`example site on port ${typeof address === 'object' ? address?.port : address}`);
});
