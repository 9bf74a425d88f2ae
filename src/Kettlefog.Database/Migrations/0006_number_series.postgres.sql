-- Numbers that were given once are not given again, even if what they named is gone.
CREATE TABLE kettlefog.number_series (
  name TEXT COLLATE "C" PRIMARY KEY,
  last BIGINT NOT NULL
);
