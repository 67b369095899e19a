/** The version of the product, as the status and the OpenAPI document give it. */
export const VERSION = '0.1.0';
