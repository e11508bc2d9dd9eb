import { type AssetRef, assetHash } from "@rubble/core/shot";

/** Where the server gives the bytes of an asset. */
export const assetUrl = (asset: AssetRef): string => `/api/assets/${assetHash(asset)}`;
