import { admin } from './template';

/** After all tests. */
export default async function dropTemplate(): Promise<void> {
  await admin(`drop database ${process.env['TEST_TEMPLATE']}`);
}
