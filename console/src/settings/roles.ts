/** The roles of users, with what they allow. */
export const roles = [
  { value: "viewer", label: "viewer: looks" },
  { value: "operator", label: "operator: merges and decides" },
  { value: "approver", label: "approver: as operator" },
  { value: "administrator", label: "administrator: users and rules too" },
];
