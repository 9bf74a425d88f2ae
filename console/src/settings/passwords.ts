/** The least number of characters of a password; the service says what else is amiss with one. */
export const minimumPassword = 12;
