import { gatewayApp } from './app.ts';
import { Vault } from './vault.ts';
import { WebhookSender } from './webhooks.ts';

/** The gateway stand-in: a process of its own, with its own storage. Configured by environment. */
function setting(name: string): string {
  const value = process.env[name];
  if (!value) {
    console.error(`The gateway stand-in needs ${name} in its environment.`);
    process.exit(2);
  }
  return value;
}

const { GATEWAY_SECRET_KEY, GATEWAY_PUBLIC_KEY, GATEWAY_DEBIT_SECRET_KEY } = process.env;
const vault = new Vault(setting('GATEWAY_FILE'), {
  ...(GATEWAY_SECRET_KEY ? { secret: GATEWAY_SECRET_KEY } : {}),
  ...(GATEWAY_DEBIT_SECRET_KEY ? { debitSecret: GATEWAY_DEBIT_SECRET_KEY } : {}),
  ...(GATEWAY_PUBLIC_KEY ? { public: GATEWAY_PUBLIC_KEY } : {}),
});
const webhooks = new WebhookSender(vault);
const server = gatewayApp(vault, webhooks).listen(Number(setting('GATEWAY_PORT')), '127.0.0.1', () => {
  const address = server.address();
  console.log(`gateway stand-in on port ${typeof address === 'object' ? address?.port : address}`);
});
