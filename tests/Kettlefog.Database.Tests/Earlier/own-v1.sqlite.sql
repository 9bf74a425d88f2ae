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
INSERT INTO kettlefog_schema_version VALUES(1,'Kettlefog.Database.Migrations.0001_own_tables.sqlite.sql','2026-11-27 16:48:12.5363937');
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
INSERT INTO kettlefog_history VALUES(1,'merge','vendor','1','2026-11-27T16:48:15.004652Z','m.ashe','same firm','by hand',NULL,NULL,'{"map":"ae1d44277fcad6c24978c2d70b326e8c90bdaeb873802976ae6a7d16a511ff94","plan":"kf1.75120270c2eeedde18180d9c7add0b03.2nZ1ZDYcn9s9INa6GFVnXtmA","records":[{"key":"1","label":"Gannet Chandlery Ltd, Saltmarrow"},{"key":"2","label":"Gannett Chandlery Limited, Saltmarrow"}],"fields":[{"name":"name","title":"Name","kind":"organisation-name","values":["Gannet Chandlery Ltd","Gannett Chandlery Limited"],"value":"Gannet Chandlery Ltd","from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":true,"changes":false},{"name":"phone","title":"Phone","kind":"phone","values":["01632 960118","01632 960119"],"value":"01632 960119","from":1,"chosenBy":"operator","rule":"master-unless-blank","differs":true,"changes":true},{"name":"city","title":"City","kind":"city","values":["Saltmarrow","Saltmarrow"],"value":"Saltmarrow","from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":false,"changes":false},{"name":"status","title":"Status","kind":"text","values":["active","active"],"value":"active","from":0,"chosenBy":"rule","rule":"master","differs":false,"changes":false},{"name":"remark","title":"Remark","kind":"long-text","values":["Pays by the month",null],"value":"Pays by the month","from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":true,"changes":false}],"moves":[{"reference":"bills","title":"Bills","table":"bill","policy":"reassign","counts":[1,2],"count":2,"worth":50.5}],"figures":[{"name":"billed","title":"Billed","operation":"sum","control":true,"before":["10.1","50.5"],"after":"60.6"}]}','17ab8fa1569565298b16ffdd712556fcd0c8abdd30a33b4de825cb6d8da57845','0000000000000000000000000000000000000000000000000000000000000000','02c4fe685efa1647a9264698076d4025fc926a60bdbe213dba7b604c21983af7');
INSERT INTO kettlefog_history VALUES(2,'merge','vendor','4','2026-11-27T16:48:15.735615Z','m.ashe','same firm','by hand',NULL,NULL,'{"map":"ae1d44277fcad6c24978c2d70b326e8c90bdaeb873802976ae6a7d16a511ff94","plan":"kf1.f7ba9959522ccaad5813a7fdb6ab712b.K0HkZDYcn9s9HdbyhdjTBU7A","records":[{"key":"4","label":"Petrel Fuels, Ternhaven"},{"key":"3","label":"Petrel Fuels Ltd, Ternhaven"}],"fields":[{"name":"name","title":"Name","kind":"organisation-name","values":["Petrel Fuels","Petrel Fuels Ltd"],"value":"Petrel Fuels","from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":true,"changes":false},{"name":"phone","title":"Phone","kind":"phone","values":["01632 960120","01632 960120"],"value":"01632 960120","from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":false,"changes":false},{"name":"city","title":"City","kind":"city","values":["Ternhaven","Ternhaven"],"value":"Ternhaven","from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":false,"changes":false},{"name":"status","title":"Status","kind":"text","values":["active","active"],"value":"active","from":0,"chosenBy":"rule","rule":"master","differs":false,"changes":false},{"name":"remark","title":"Remark","kind":"long-text","values":[null,null],"from":0,"chosenBy":"rule","rule":"master-unless-blank","differs":false,"changes":false}],"moves":[{"reference":"bills","title":"Bills","table":"bill","policy":"reassign","counts":[1,1],"count":1,"worth":5.05}],"figures":[{"name":"billed","title":"Billed","operation":"sum","control":true,"before":["6.06","5.05"],"after":"11.11"}]}','f428092f05fb228a949b392c20592e2cf362217fac51a86aee9c47ac16bd34b8','02c4fe685efa1647a9264698076d4025fc926a60bdbe213dba7b604c21983af7','b254dd1f2277920b8d6127923e735b50e5772463259622f7e99f5142e298fee2');
INSERT INTO kettlefog_history VALUES(3,'reversal','vendor','4','2026-11-27T16:48:16.408318Z','m.ashe','two firms','by hand',NULL,2,'{"plan":"kf1.8b46a1899e8de7a8a5a95f0b9f8cb447.IooI2G6B6U0QgU3X","records":[{"key":"4","label":"Petrel Fuels, Ternhaven"},{"key":"3","label":"Petrel Fuels Ltd, Ternhaven"}],"rows":[{"reference":"bills","title":"Bills","record":"3","count":1,"journaled":1}],"cells":[{"record":"3","column":"status","now":"merged","back":"active"}],"restored":[],"drift":[]}','f17acaf9228bb0ea2894e10d52fe070734fb21173bfc0efdf28271c0dc86e00c','b254dd1f2277920b8d6127923e735b50e5772463259622f7e99f5142e298fee2','780df210471600e3e63726c835b3f338b811028ed06c846fc817cf12f2a4c244');
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
INSERT INTO kettlefog_history_record VALUES('vendor','4',2,1);
INSERT INTO kettlefog_history_record VALUES('vendor','4',3,1);
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
CREATE TABLE kettlefog_forward (
  record_type TEXT NOT NULL,
  old_key     TEXT NOT NULL,
  into_key    TEXT NOT NULL,
  master_key  TEXT NOT NULL,
  number      INTEGER NOT NULL,
  PRIMARY KEY (record_type, old_key)
) WITHOUT ROWID;
INSERT INTO kettlefog_forward VALUES('vendor','2','1','1',1);
CREATE TABLE kettlefog_idempotency (
  actor   TEXT NOT NULL,
  key     TEXT NOT NULL,
  request TEXT NOT NULL,
  number  INTEGER NOT NULL,
  PRIMARY KEY (actor, key)
) WITHOUT ROWID;
INSERT INTO kettlefog_idempotency VALUES('m.ashe','21e42524-08fc-4d8b-ab45-7f6079b609a8','8c197138059aa00efac43786dd628f3e5ce8bbbd0afd1c049476e13dc6ceeab3',2);
INSERT INTO kettlefog_idempotency VALUES('m.ashe','6cf45080-fa19-4348-84de-8edeadbb9eda','296a7d245dd7d75adf6a5e689d44a47307a9827c2203ba10a4457e43f6e32368',1);
INSERT INTO kettlefog_idempotency VALUES('m.ashe','b7eb1852-50d8-40f7-9291-9a55fc662bef','ba12d661dd1d5c65b4e72f7251c4d27e3b852bd9054227b0f0d60ba811d7ac81',3);
CREATE TABLE kettlefog_user (
  name          TEXT PRIMARY KEY,
  full_name     TEXT NOT NULL,
  role          TEXT NOT NULL,
  password_hash TEXT,
  created_at    TEXT NOT NULL
) WITHOUT ROWID;
INSERT INTO kettlefog_user VALUES('m.ashe','m.ashe','operator',NULL,'2026-11-27T16:48:12Z');
CREATE TABLE kettlefog_token (
  id         INTEGER PRIMARY KEY,
  hash       TEXT NOT NULL UNIQUE,
  user_name  TEXT NOT NULL REFERENCES kettlefog_user (name),
  purpose    TEXT NOT NULL,
  label      TEXT NOT NULL,
  created_at TEXT NOT NULL,
  expires_at TEXT
);
INSERT INTO kettlefog_token VALUES(1,'9dce3eefd86a04e5d017cce3f2988d58d47d678e41fe4172466f6afe6b7d81b1','m.ashe','api','t','2026-11-27T16:48:12Z',NULL);
CREATE TABLE kettlefog_key_ring (
  id  INTEGER PRIMARY KEY,
  xml TEXT NOT NULL
);
INSERT INTO kettlefog_key_ring VALUES(1,'<key id="239e2ab7-4b9b-44bc-a052-daef142a060b" version="1"><creationDate>2026-11-27T16:48:13.6045931Z</creationDate><activationDate>2026-11-27T16:48:13.6045931Z</activationDate><expirationDate>2027-02-25T16:48:13.6045931Z</expirationDate><descriptor deserializerType="Microsoft.AspNetCore.DataProtection.AuthenticatedEncryption.ConfigurationModel.AuthenticatedEncryptorDescriptorDeserializer, Microsoft.AspNetCore.DataProtection, Version=10.0.0.0, Culture=neutral, PublicKeyToken=adb9793829ddae60"><descriptor><encryption algorithm="AES_256_CBC" /><validation algorithm="HMACSHA256" /><masterKey p4:requiresEncryption="true" xmlns:p4="http://schemas.asp.net/2015/03/dataProtection"><!-- Warning: the key below is in an unencrypted form. --><value>dC0360YVKBMsSdTFtUN17sB9y6j+9FGekEAw+9EQ/DIf/gIAV7an4SdlD8wdQWzkcqruDIuFsUxH5gJaj534Mw==</value></masterKey></descriptor></descriptor></key>');
DELETE FROM sqlite_sequence;
INSERT INTO sqlite_sequence VALUES('kettlefog_schema_version',1);
CREATE INDEX bill_vendor ON bill (vendor_id);
CREATE UNIQUE INDEX kettlefog_history_reverses ON kettlefog_history (reverses) WHERE reverses IS NOT NULL;
CREATE TRIGGER kettlefog_history_is_not_changed BEFORE UPDATE ON kettlefog_history
BEGIN SELECT RAISE (ABORT, 'the history of Kettlefog is append-only'); END;
CREATE TRIGGER kettlefog_history_is_not_removed BEFORE DELETE ON kettlefog_history
BEGIN SELECT RAISE (ABORT, 'the history of Kettlefog is append-only'); END;
CREATE INDEX kettlefog_forward_master ON kettlefog_forward (record_type, master_key);
COMMIT;
