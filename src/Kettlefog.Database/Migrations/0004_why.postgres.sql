-- The strongest evidence for a cluster, in few words.
ALTER TABLE kettlefog.cluster ADD COLUMN why TEXT NOT NULL DEFAULT '';
