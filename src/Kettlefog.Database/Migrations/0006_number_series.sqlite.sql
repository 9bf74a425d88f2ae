-- Numbers that were given once are not given again, even if what they named is gone.
CREATE TABLE kettlefog_number_series (
  name TEXT PRIMARY KEY,
  last INTEGER NOT NULL
);
