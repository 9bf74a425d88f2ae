import { t } from "@lingui/core/macro";
/** The roles of users, with what they allow. */
export const roles = [
  { value: "viewer", label: t`viewer: looks` },
  { value: "operator", label: t`operator: merges and decides` },
  { value: "approver", label: t`approver: as operator` },
  { value: "administrator", label: t`administrator: users and rules too` },
];
