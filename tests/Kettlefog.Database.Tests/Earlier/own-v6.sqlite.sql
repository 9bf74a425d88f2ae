PRAGMA foreign_keys=OFF;
BEGIN TRANSACTION;
CREATE TABLE vendor (id INTEGER PRIMARY KEY, name VARCHAR(40) NOT NULL, phone VARCHAR(30), city VARCHAR(30), status VARCHAR(10) NOT NULL, remark VARCHAR(200));
INSERT INTO vendor VALUES(1,'Gannet Chandlery Ltd','01632 960119','Saltmarrow','active','Pays by the month');
INSERT INTO vendor VALUES(2,'Gannett Chandlery Limited','01632 960119','Saltmarrow','merged',NULL);
INSERT INTO vendor VALUES(3,'Petrel Fuels Ltd','01632 960120','Ternhaven','active',NULL);
INSERT INTO vendor VALUES(4,'Petrel Fuels','01632 960120','Ternhaven','active',NULL);
INSERT INTO vendor VALUES(5,'Marram Riggers','01632 960121','Kelp Point','active',NULL);
INSERT INTO vendor VALUES(6,'Marram Riggers','01632 960121','Kelp Point','active',NULL);
CREATE TABLE bill (id INTEGER PRIMARY KEY, vendor_id INTEGER NOT NULL REFERENCES vendor (id), number VARCHAR(10) NOT NULL, amount NUMERIC(12, 2) NOT NULL);
INSERT INTO bill VALUES(1,1,'A1',10.099999999999999644);
INSERT INTO bill VALUES(2,1,'A2',20.199999999999999288);
INSERT INTO bill VALUES(3,1,'A3',30.30000000000000071);
INSERT INTO bill VALUES(4,3,'B1',5.0499999999999998223);
INSERT INTO bill VALUES(5,4,'B2',6.0599999999999996092);
CREATE TABLE [kettlefog_schema_version] (
    SchemaVersionID INTEGER CONSTRAINT [PK_kettlefog_schema_version_Id] PRIMARY KEY AUTOINCREMENT NOT NULL,
    ScriptName TEXT NOT NULL,
    Applied DATETIME NOT NULL
);
INSERT INTO kettlefog_schema_version VALUES(1,'Kettlefog.Database.Migrations.0001_own_tables.sqlite.sql','2026-11-27 16:50:46.1797437');
INSERT INTO kettlefog_schema_version VALUES(2,'Kettlefog.Database.Migrations.0002_matching.sqlite.sql','2026-11-27 16:50:46.1894192');
INSERT INTO kettlefog_schema_version VALUES(3,'Kettlefog.Database.Migrations.0003_taken_out.sqlite.sql','2026-11-27 16:50:46.1897684');
INSERT INTO kettlefog_schema_version VALUES(4,'Kettlefog.Database.Migrations.0004_why.sqlite.sql','2026-11-27 16:50:47');
INSERT INTO kettlefog_schema_version VALUES(5,'Kettlefog.Database.Migrations.0005_names.sqlite.sql','2026-11-28 18:57:57.0085154');
INSERT INTO kettlefog_schema_version VALUES(6,'Kettlefog.Database.Migrations.0006_number_series.sqlite.sql','2026-11-28 22:10:13.104246');
CREATE TABLE kettlefog_history (
  number         INTEGER PRIMARY KEY,
  kind           TEXT NOT NULL,
  record_type    TEXT NOT NULL,
  master         TEXT NOT NULL,
  at             TEXT NOT NULL,
  actor          TEXT NOT NULL,
  reason         TEXT NOT NULL,
  rule           TEXT NOT NULL,
  approved_by    TEXT,
  reverses       INTEGER,
  details        TEXT NOT NULL,
  journal_digest TEXT NOT NULL,
  previous_hash  TEXT NOT NULL,
  hash           TEXT NOT NULL
);
INSERT INTO kettlefog_history VALUES(1,'merge','vendor','1','2026-11-27T16:50:52.578658Z','m.ashe','same firm','by hand',NULL,NULL,'{"map":"ae1d44277fcad6c24978c2d70b326e8c90bdaeb873802976ae6a7d16a511ff94","plan":"kf1.0a95254d344596856c0724a65e5f40c6.2nZ1ZDYc47DEn9s9INa6GFVnKdDQ47DE","records":[{"key":"1","label":"Gannet Chandlery Ltd, Saltmarrow"},{"key":"2","label":"Gannett Chandlery Limited, Saltmarrow"}],"fields":[{"name":"name","title":"Name","kind":"organisation-name","values":["Gannet Chandlery Ltd","Gannett Chandlery Limited"],"value":"Gannet Chandlery Ltd","from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":true,"changes":false},{"name":"phone","title":"Phone","kind":"phone","values":["01632 960118","01632 960119"],"value":"01632 960119","from":1,"chosenBy":"operator","rule":"master-unless-blank","differs":true,"changes":true},{"name":"city","title":"City","kind":"city","values":["Saltmarrow","Saltmarrow"],"value":"Saltmarrow","from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":false,"changes":false},{"name":"status","title":"Status","kind":"text","values":["active","active"],"value":"active","from":0,"chosenBy":"rule","rule":"master","differs":false,"changes":false},{"name":"remark","title":"Remark","kind":"long-text","values":["Pays by the month",null],"value":"Pays by the month","from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":true,"changes":false}],"moves":[{"reference":"bills","title":"Bills","table":"bill","policy":"reassign","counts":[1,2],"count":2,"worth":50.5,"collisions":[],"mayExclude":false,"lastKey":"5"}],"figures":[{"name":"billed","title":"Billed","operation":"sum","control":true,"before":["10.1","50.5"],"after":"60.6"}]}','ccf80fc7fbe99ca3844766c031b5a87136703cf160daaca9e1a5a7d2f3f458b8','0000000000000000000000000000000000000000000000000000000000000000','d46521bc9835760d36e26405c4236496339c181cf53ac2d6e1c21228c16cc361');
INSERT INTO kettlefog_history VALUES(2,'merge','vendor','4','2026-11-27T16:50:53.407640Z','m.ashe','same firm','by hand',NULL,NULL,'{"map":"ae1d44277fcad6c24978c2d70b326e8c90bdaeb873802976ae6a7d16a511ff94","plan":"kf1.e4a678ba62c630e8c023c5a39a100114.K0HkZDYc47DEn9s9HdbyhdjTp72747DE","records":[{"key":"4","label":"Petrel Fuels, Ternhaven"},{"key":"3","label":"Petrel Fuels Ltd, Ternhaven"}],"fields":[{"name":"name","title":"Name","kind":"organisation-name","values":["Petrel Fuels","Petrel Fuels Ltd"],"value":"Petrel Fuels","from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":true,"changes":false},{"name":"phone","title":"Phone","kind":"phone","values":["01632 960120","01632 960120"],"value":"01632 960120","from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":false,"changes":false},{"name":"city","title":"City","kind":"city","values":["Ternhaven","Ternhaven"],"value":"Ternhaven","from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":false,"changes":false},{"name":"status","title":"Status","kind":"text","values":["active","active"],"value":"active","from":0,"chosenBy":"rule","rule":"master","differs":false,"changes":false},{"name":"remark","title":"Remark","kind":"long-text","values":[null,null],"from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":false,"changes":false}],"moves":[{"reference":"bills","title":"Bills","table":"bill","policy":"reassign","counts":[1,1],"count":1,"worth":5.05,"collisions":[],"mayExclude":false,"lastKey":"5"}],"figures":[{"name":"billed","title":"Billed","operation":"sum","control":true,"before":["6.06","5.05"],"after":"11.11"}]}','2069e23fa7b3d10e529b4be5bcf79448ae74a90eba25f37347ba8790fbc2a549','d46521bc9835760d36e26405c4236496339c181cf53ac2d6e1c21228c16cc361','8e6441196c9fb5e395490b5fd22be35108597ff87eca87101bab32cf806fbc94');
INSERT INTO kettlefog_history VALUES(3,'reversal','vendor','4','2026-11-27T16:50:54.321831Z','m.ashe','two firms','by hand',NULL,2,'{"plan":"kf1.60f4856aa96e94fca46429daedac353e.2rOh2G6B6U0QgU3X","records":[{"key":"4","label":"Petrel Fuels, Ternhaven"},{"key":"3","label":"Petrel Fuels Ltd, Ternhaven"}],"rows":[{"reference":"bills","title":"Bills","record":"3","count":1,"journaled":1}],"cells":[{"record":"3","column":"status","now":"merged","back":"active"}],"restored":[],"drift":[]}','374708fff7719dd5979ec875d56cd2286f6d3cf7ec317a3b25632aab28ec37bb','8e6441196c9fb5e395490b5fd22be35108597ff87eca87101bab32cf806fbc94','5d1a84f42a9254188f41a9acbbd6db8fad18eeea5bf3de5017c0d093f1dc60b8');
INSERT INTO kettlefog_history VALUES(4,'non-duplicates','vendor','3','2026-11-27T16:50:55.588316Z','m.ashe','two branches','by hand',NULL,NULL,'{"records":[{"key":"3","label":"Petrel Fuels Ltd, Ternhaven"},{"key":"4","label":"Petrel Fuels, Ternhaven"}],"cluster":2}','374708fff7719dd5979ec875d56cd2286f6d3cf7ec317a3b25632aab28ec37bb','5d1a84f42a9254188f41a9acbbd6db8fad18eeea5bf3de5017c0d093f1dc60b8','9ca48df97c2a47501af2f7c4b4098b36ac22b088dcec69078fadadde1b2183df');
CREATE TABLE kettlefog_history_record (
  record_type TEXT NOT NULL,
  record_key  TEXT NOT NULL,
  number      INTEGER NOT NULL,
  is_master   INTEGER NOT NULL,
  PRIMARY KEY (record_type, record_key, number)
) WITHOUT ROWID;
INSERT INTO kettlefog_history_record VALUES('vendor','1',1,1);
INSERT INTO kettlefog_history_record VALUES('vendor','2',1,0);
INSERT INTO kettlefog_history_record VALUES('vendor','3',2,0);
INSERT INTO kettlefog_history_record VALUES('vendor','3',3,0);
INSERT INTO kettlefog_history_record VALUES('vendor','3',4,1);
INSERT INTO kettlefog_history_record VALUES('vendor','4',2,1);
INSERT INTO kettlefog_history_record VALUES('vendor','4',3,1);
INSERT INTO kettlefog_history_record VALUES('vendor','4',4,0);
CREATE TABLE kettlefog_journal_step (
  number      INTEGER NOT NULL,
  step        INTEGER NOT NULL,
  operation   TEXT NOT NULL,
  table_name  TEXT NOT NULL,
  reference   TEXT,
  key_columns TEXT NOT NULL,
  row_count   INTEGER NOT NULL,
  PRIMARY KEY (number, step)
) WITHOUT ROWID;
INSERT INTO kettlefog_journal_step VALUES(1,1,'reassign','bill','bills','["id"]',2);
INSERT INTO kettlefog_journal_step VALUES(1,2,'update','vendor',NULL,'["id"]',1);
INSERT INTO kettlefog_journal_step VALUES(1,3,'update','vendor',NULL,'["id"]',1);
INSERT INTO kettlefog_journal_step VALUES(2,1,'reassign','bill','bills','["id"]',1);
INSERT INTO kettlefog_journal_step VALUES(2,2,'update','vendor',NULL,'["id"]',1);
CREATE TABLE kettlefog_journal_row (
  number INTEGER NOT NULL,
  step   INTEGER NOT NULL,
  row    INTEGER NOT NULL,
  key_1, key_2, key_3, key_4, key_5, key_6, key_7, key_8,
  PRIMARY KEY (number, step, row)
) WITHOUT ROWID;
INSERT INTO kettlefog_journal_row VALUES(1,1,1,2,NULL,NULL,NULL,NULL,NULL,NULL,NULL);
INSERT INTO kettlefog_journal_row VALUES(1,1,2,3,NULL,NULL,NULL,NULL,NULL,NULL,NULL);
INSERT INTO kettlefog_journal_row VALUES(1,2,1,2,NULL,NULL,NULL,NULL,NULL,NULL,NULL);
INSERT INTO kettlefog_journal_row VALUES(1,3,1,1,NULL,NULL,NULL,NULL,NULL,NULL,NULL);
INSERT INTO kettlefog_journal_row VALUES(2,1,1,4,NULL,NULL,NULL,NULL,NULL,NULL,NULL);
INSERT INTO kettlefog_journal_row VALUES(2,2,1,3,NULL,NULL,NULL,NULL,NULL,NULL,NULL);
CREATE TABLE kettlefog_journal_cell (
  number INTEGER NOT NULL,
  step   INTEGER NOT NULL,
  column TEXT NOT NULL,
  before,
  after,
  PRIMARY KEY (number, step, column)
) WITHOUT ROWID;
INSERT INTO kettlefog_journal_cell VALUES(1,1,'vendor_id',2,1);
INSERT INTO kettlefog_journal_cell VALUES(1,2,'status','active','merged');
INSERT INTO kettlefog_journal_cell VALUES(1,3,'phone','01632 960118','01632 960119');
INSERT INTO kettlefog_journal_cell VALUES(2,1,'vendor_id',3,4);
INSERT INTO kettlefog_journal_cell VALUES(2,2,'status','active','merged');
CREATE TABLE IF NOT EXISTS "kettlefog_redirect" (
  record_type TEXT NOT NULL,
  old_key     TEXT NOT NULL,
  into_key    TEXT NOT NULL,
  master_key  TEXT NOT NULL,
  number      INTEGER NOT NULL,
  PRIMARY KEY (record_type, old_key)
) WITHOUT ROWID;
INSERT INTO kettlefog_redirect VALUES('vendor','2','1','1',1);
CREATE TABLE kettlefog_idempotency (
  actor   TEXT NOT NULL,
  key     TEXT NOT NULL,
  request TEXT NOT NULL,
  number  INTEGER NOT NULL,
  PRIMARY KEY (actor, key)
) WITHOUT ROWID;
INSERT INTO kettlefog_idempotency VALUES('m.ashe','25aa4392-7b14-4404-aa89-6124a009f3e5','8f77dc186ad72bfb36cd46c3abb820fc33dbed13ace52a15ce7530fd07809bb6',1);
INSERT INTO kettlefog_idempotency VALUES('m.ashe','b68aa60d-a738-4e94-a6dc-8c32497b4c17','7bbdf2d9321ff1703092520a26b3d05e1afca01ce02cc5d2093e30cee7422bfa',3);
INSERT INTO kettlefog_idempotency VALUES('m.ashe','cbba228f-3904-41f3-9996-f9a9146e7a69','3a1d11f723b6e2a664767d6fdea9e4123f1cd1c56c252fdfa854773e4ec93483',2);
CREATE TABLE kettlefog_user (
  name          TEXT PRIMARY KEY,
  full_name     TEXT NOT NULL,
  role          TEXT NOT NULL,
  password_hash TEXT,
  created_at    TEXT NOT NULL
) WITHOUT ROWID;
INSERT INTO kettlefog_user VALUES('m.ashe','m.ashe','operator',NULL,'2026-11-27T16:50:46Z');
CREATE TABLE kettlefog_token (
  id         INTEGER PRIMARY KEY,
  hash       TEXT NOT NULL UNIQUE,
  user_name  TEXT NOT NULL REFERENCES kettlefog_user (name),
  purpose    TEXT NOT NULL,
  label      TEXT NOT NULL,
  created_at TEXT NOT NULL,
  expires_at TEXT
);
INSERT INTO kettlefog_token VALUES(1,'b8e3fda7ed6886bd5523f939bbc91ae29444808ad86a8efd303532cb0ad1254a','m.ashe','api','t','2026-11-27T16:50:46Z',NULL);
CREATE TABLE kettlefog_key_ring (
  id  INTEGER PRIMARY KEY,
  xml TEXT NOT NULL
);
INSERT INTO kettlefog_key_ring VALUES(1,'<key id="768150fd-8aa7-42f5-bb3f-3e6e1530d7b2" version="1"><creationDate>2026-11-27T16:50:48.0009589Z</creationDate><activationDate>2026-11-27T16:50:48.0009589Z</activationDate><expirationDate>2027-02-25T16:50:48.0009589Z</expirationDate><descriptor deserializerType="Microsoft.AspNetCore.DataProtection.AuthenticatedEncryption.ConfigurationModel.AuthenticatedEncryptorDescriptorDeserializer, Microsoft.AspNetCore.DataProtection, Version=10.0.0.0, Culture=neutral, PublicKeyToken=adb9793829ddae60"><descriptor><encryption algorithm="AES_256_CBC" /><validation algorithm="HMACSHA256" /><masterKey p4:requiresEncryption="true" xmlns:p4="http://schemas.asp.net/2015/03/dataProtection"><!-- Warning: the key below is in an unencrypted form. --><value>gBbiyDlTRoH2tE7WYN+XfiQsqw8ApKgfLCXglj/MRwIy/6DLDZE8HhRFbu9qbkp4vHERd9dlZx8zx5jb5vJUiA==</value></masterKey></descriptor></descriptor></key>');
CREATE TABLE kettlefog_rule (
  record_type TEXT NOT NULL,
  name        TEXT NOT NULL,
  version     INTEGER NOT NULL,
  body        TEXT,
  note        TEXT NOT NULL,
  actor       TEXT NOT NULL,
  at          TEXT NOT NULL,
  PRIMARY KEY (record_type, name, version)
) WITHOUT ROWID;
CREATE TABLE kettlefog_scan (
  id          INTEGER PRIMARY KEY,
  record_type TEXT NOT NULL,
  scope       TEXT NOT NULL,
  state       TEXT NOT NULL,
  phase       TEXT NOT NULL,
  done        INTEGER NOT NULL,
  total       INTEGER NOT NULL,
  compared    INTEGER NOT NULL DEFAULT 0,
  digest      TEXT,
  rules       TEXT,
  report      TEXT,
  message     TEXT,
  actor       TEXT NOT NULL,
  at          TEXT NOT NULL,
  ended_at    TEXT
);
INSERT INTO kettlefog_scan VALUES(1,'vendor','whole','finished','finished',0,0,6,'ef0f0c146c4c26dca98280e77c3ea2d8ee45948d450dfd942b2cd66bd578f9f8','6f290b3edd350b961091cdbbcae1ff86bc4992275cebb6d97248eb4c2cdbbf25','{"Records":6,"Changed":6,"Compared":3,"ComparedShare":0.2,"Pairs":3,"Clusters":3,"EstimatedLoss":null,"Seconds":0.8}',NULL,'m.ashe','2026-11-27T16:50:49.935433Z','2026-11-27T16:50:51.028570Z');
CREATE TABLE kettlefog_scan_record (
  record_type TEXT NOT NULL,
  record_key  TEXT NOT NULL,
  content_hash       INTEGER NOT NULL,
  PRIMARY KEY (record_type, record_key)
) WITHOUT ROWID;
INSERT INTO kettlefog_scan_record VALUES('vendor','1',3472448322576819843);
INSERT INTO kettlefog_scan_record VALUES('vendor','2',-8740803481344152236);
INSERT INTO kettlefog_scan_record VALUES('vendor','3',-3648503802237015035);
INSERT INTO kettlefog_scan_record VALUES('vendor','4',2545777650713293732);
INSERT INTO kettlefog_scan_record VALUES('vendor','5',-7712361897870126495);
INSERT INTO kettlefog_scan_record VALUES('vendor','6',-7712361897870126495);
CREATE TABLE kettlefog_pair (
  record_type TEXT NOT NULL,
  key_a       TEXT NOT NULL,
  key_b       TEXT NOT NULL,
  scan        INTEGER NOT NULL,
  score       REAL NOT NULL,
  rule        TEXT NOT NULL,
  proposed    INTEGER NOT NULL,
  PRIMARY KEY (record_type, key_a, key_b, scan)
) WITHOUT ROWID;
INSERT INTO kettlefog_pair VALUES('vendor','1','2',1,0.98429999999999995274,'ready',1);
INSERT INTO kettlefog_pair VALUES('vendor','3','4',1,0.98440000000000005275,'ready',1);
INSERT INTO kettlefog_pair VALUES('vendor','5','6',1,0.98440000000000005275,'ready',1);
CREATE TABLE kettlefog_cluster (
  id            INTEGER PRIMARY KEY,
  record_type   TEXT NOT NULL,
  state         TEXT NOT NULL,
  rule          TEXT NOT NULL,
  confidence    REAL NOT NULL,
  weakest       REAL NOT NULL,
  records       INTEGER NOT NULL,
  related_rows  INTEGER NOT NULL,
  amount        TEXT,
  assignee   TEXT,
  postponed_until TEXT,
  found_at      TEXT NOT NULL,
  changed_at    TEXT NOT NULL
, summary TEXT NOT NULL DEFAULT '');
INSERT INTO kettlefog_cluster VALUES(1,'vendor','merged','ready',0.98430001735687255859,0.98430001735687255859,1,3,'60.6',NULL,NULL,'2026-11-27T16:50:50.889119Z','2026-11-27T16:50:52.578658Z','');
INSERT INTO kettlefog_cluster VALUES(2,'vendor','non-duplicates','ready',0.98439997434616088867,0.98439997434616088867,0,2,'11.11',NULL,NULL,'2026-11-27T16:50:50.889119Z','2026-11-27T16:50:55.601119Z','');
INSERT INTO kettlefog_cluster VALUES(3,'vendor','postponed','ready',0.98439997434616088867,0.98439997434616088867,2,0,'0',NULL,'2099-01-31','2026-11-27T16:50:50.889119Z','2026-11-27T16:50:50.889119Z','same phone');
CREATE TABLE kettlefog_cluster_record (
  cluster     INTEGER NOT NULL,
  record_key  TEXT NOT NULL,
  record_type TEXT NOT NULL,
  left_by     INTEGER,
  PRIMARY KEY (cluster, record_key)
) WITHOUT ROWID;
INSERT INTO kettlefog_cluster_record VALUES(1,'1','vendor',NULL);
INSERT INTO kettlefog_cluster_record VALUES(1,'2','vendor',1);
INSERT INTO kettlefog_cluster_record VALUES(2,'3','vendor',4);
INSERT INTO kettlefog_cluster_record VALUES(2,'4','vendor',4);
INSERT INTO kettlefog_cluster_record VALUES(3,'5','vendor',NULL);
INSERT INTO kettlefog_cluster_record VALUES(3,'6','vendor',NULL);
CREATE TABLE IF NOT EXISTS "kettlefog_non_duplicate" (
  record_type TEXT NOT NULL,
  key_a       TEXT NOT NULL,
  key_b       TEXT NOT NULL,
  number      INTEGER NOT NULL,
  PRIMARY KEY (record_type, key_a, key_b)
) WITHOUT ROWID;
INSERT INTO kettlefog_non_duplicate VALUES('vendor','3','4',4);
CREATE TABLE kettlefog_decision (
  number      INTEGER NOT NULL,
  place       INTEGER NOT NULL,
  record_type TEXT NOT NULL,
  is_match    INTEGER NOT NULL,
  fields      TEXT NOT NULL,
  values_a    TEXT NOT NULL,
  values_b    TEXT NOT NULL,
  PRIMARY KEY (number, place)
) WITHOUT ROWID;
INSERT INTO kettlefog_decision VALUES(1,0,'vendor',1,'["name","phone","city","status","remark"]','["Gannet Chandlery Ltd","01632 960118","Saltmarrow","active","Pays by the month"]','["Gannett Chandlery Limited","01632 960119","Saltmarrow","active",null]');
INSERT INTO kettlefog_decision VALUES(4,0,'vendor',0,'["name","phone","city","status","remark"]','["Petrel Fuels Ltd","01632 960120","Ternhaven","active",null]','["Petrel Fuels","01632 960120","Ternhaven","active",null]');
CREATE TABLE IF NOT EXISTS "kettlefog_partial_reversal" (
  merge      INTEGER NOT NULL,
  record_key TEXT NOT NULL,
  number     INTEGER NOT NULL,
  PRIMARY KEY (merge, record_key)
) WITHOUT ROWID;
CREATE TABLE kettlefog_number_series (
  name TEXT PRIMARY KEY,
  last INTEGER NOT NULL
);
DELETE FROM sqlite_sequence;
INSERT INTO sqlite_sequence VALUES('kettlefog_schema_version',6);
CREATE INDEX bill_vendor ON bill (vendor_id);
CREATE UNIQUE INDEX kettlefog_history_reverses ON kettlefog_history (reverses) WHERE reverses IS NOT NULL;
CREATE TRIGGER kettlefog_history_is_not_removed BEFORE DELETE ON kettlefog_history
BEGIN SELECT RAISE (ABORT, 'the history of Kettlefog is append-only'); END;
CREATE UNIQUE INDEX kettlefog_scan_open ON kettlefog_scan (record_type) WHERE state IN ('waiting', 'running', 'stopped');
CREATE INDEX kettlefog_cluster_queue ON kettlefog_cluster (record_type, state, confidence DESC, id);
CREATE INDEX kettlefog_cluster_record_key ON kettlefog_cluster_record (record_type, record_key);
CREATE INDEX kettlefog_decision_type ON kettlefog_decision (record_type);
CREATE INDEX kettlefog_redirect_master ON kettlefog_redirect (record_type, master_key);
CREATE VIEW kettlefog_redirects AS
SELECT record_type, old_key, master_key, number AS merge FROM kettlefog_redirect;
CREATE TRIGGER kettlefog_history_is_not_changed BEFORE UPDATE ON kettlefog_history
BEGIN SELECT RAISE (ABORT, 'the history of Kettlefog is append-only'); END;
COMMIT;
