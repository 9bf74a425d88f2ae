-- A claim lapses at a time unless it is renewed; an assignment by somebody does not.
ALTER TABLE kettlefog.cluster ADD COLUMN claimed_until TEXT COLLATE "C";

-- Who postponed a cluster, and why.
ALTER TABLE kettlefog.cluster ADD COLUMN postponed_by TEXT COLLATE "C";
ALTER TABLE kettlefog.cluster ADD COLUMN postponed_reason TEXT COLLATE "C";
