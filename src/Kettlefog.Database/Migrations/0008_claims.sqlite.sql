-- A claim lapses at a time unless it is renewed; an assignment by somebody does not.
ALTER TABLE kettlefog_cluster ADD COLUMN claimed_until TEXT;

-- Who postponed a cluster, and why.
ALTER TABLE kettlefog_cluster ADD COLUMN postponed_by TEXT;
ALTER TABLE kettlefog_cluster ADD COLUMN postponed_reason TEXT;
