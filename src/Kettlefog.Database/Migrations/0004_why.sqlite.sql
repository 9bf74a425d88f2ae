-- The strongest evidence for a cluster, in few words.
ALTER TABLE kettlefog_cluster ADD COLUMN why TEXT NOT NULL DEFAULT '';
