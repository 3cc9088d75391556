-- A database of schema 10 with jobs as they were written then: read, undone and redone by every later one.
CREATE TABLE job (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    position INTEGER NOT NULL,
    revision INTEGER NOT NULL,
    changed TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ')),
    deleted TEXT
) STRICT;
CREATE TABLE history (
    job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    label TEXT NOT NULL,
    job TEXT NOT NULL,
    PRIMARY KEY (job_id, position)
) STRICT;
ALTER TABLE job ADD COLUMN wall TEXT NOT NULL DEFAULT '';
ALTER TABLE job ADD COLUMN openings INTEGER NOT NULL DEFAULT 0;
ALTER TABLE job ADD COLUMN ticked TEXT NOT NULL DEFAULT '{"ticks":[],"rolls":{}}';
ALTER TABLE job ADD COLUMN bench INTEGER NOT NULL DEFAULT 0;
UPDATE job SET
    wall = coalesce(h.job ->> '$.wall.name', ''),
    openings = coalesce(json_array_length(h.job, '$.openings'), 0),
    ticked = json_object(
        'ticks', json(coalesce(h.job -> '$.ticks', '[]')),
        'rolls', json(coalesce(h.job -> '$.bench.rolls', '{}')))
FROM history h
WHERE h.job_id = job.id AND h.position = job.position AND json_valid(h.job);
ALTER TABLE job ADD COLUMN verdict INTEGER;
ALTER TABLE job ADD COLUMN verdict_of INTEGER;
ALTER TABLE history ADD COLUMN ticks_changed TEXT;
CREATE TABLE record (
    job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE RESTRICT,
    number INTEGER NOT NULL,
    event TEXT NOT NULL,
    entry TEXT NOT NULL,
    PRIMARY KEY (job_id, number),
    UNIQUE (job_id, event)
) STRICT;
CREATE TRIGGER record_is_not_changed BEFORE UPDATE ON record BEGIN SELECT raise(ABORT, 'the record is only added to'); END;
CREATE TRIGGER record_is_not_cut BEFORE DELETE ON record BEGIN SELECT raise(ABORT, 'the record is only added to'); END;
CREATE TABLE practice (
    id INTEGER PRIMARY KEY,
    who TEXT NOT NULL,
    at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ')),
    result TEXT NOT NULL
) STRICT;
CREATE INDEX practice_who ON practice (who, id);
ALTER TABLE job ADD COLUMN dropped INTEGER NOT NULL DEFAULT 0;
CREATE TABLE person (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL COLLATE NOCASE UNIQUE,
    login TEXT NOT NULL COLLATE NOCASE UNIQUE,
    password TEXT NOT NULL,
    role TEXT NOT NULL,
    epoch INTEGER NOT NULL DEFAULT 0,
    made TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ')),
    ended TEXT
) STRICT;
CREATE TABLE job_role (
    person_id INTEGER NOT NULL REFERENCES person (id),
    job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    role TEXT NOT NULL,
    PRIMARY KEY (person_id, job_id)
) STRICT;
CREATE TABLE session (
    key TEXT PRIMARY KEY,
    data TEXT NOT NULL,
    until INTEGER NOT NULL
) STRICT;
CREATE TABLE invitation (
    id INTEGER PRIMARY KEY,
    code TEXT NOT NULL UNIQUE,
    role TEXT NOT NULL,
    job_id INTEGER REFERENCES job (id) ON DELETE CASCADE,
    until TEXT NOT NULL,
    made_by TEXT NOT NULL
) STRICT;
CREATE TABLE share (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    code TEXT NOT NULL UNIQUE,
    job_id INTEGER NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    place TEXT,
    until TEXT NOT NULL,
    made_by TEXT NOT NULL
) STRICT;
CREATE TABLE audit (
    id INTEGER PRIMARY KEY AUTOINCREMENT,
    at TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ')),
    who TEXT NOT NULL,
    what TEXT NOT NULL,
    about TEXT NOT NULL
) STRICT;
ALTER TABLE history ADD COLUMN who TEXT NOT NULL DEFAULT '';
ALTER TABLE job ADD COLUMN archived TEXT;
ALTER TABLE job ADD COLUMN words TEXT NOT NULL DEFAULT '';
ALTER TABLE job ADD COLUMN follows TEXT COLLATE NOCASE;
CREATE TABLE way (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL COLLATE NOCASE UNIQUE,
    way TEXT NOT NULL,
    changed TEXT NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ')),
    who TEXT NOT NULL
) STRICT;
PRAGMA application_id = 1262570821;
ALTER TABLE practice ADD COLUMN answer TEXT;
CREATE UNIQUE INDEX practice_answer ON practice (answer) WHERE answer IS NOT NULL;
PRAGMA user_version = 10;
INSERT INTO job (id, name, position, revision, changed) VALUES (1, 'renamed', 1, 4, '2026-11-23T07:00:00.000Z');
INSERT INTO job (id, name, position, revision, changed, deleted) VALUES (2, 'made so', 0, 1, '2026-11-23T07:00:00.000Z', '2026-11-24T07:00:00.000Z');
INSERT INTO history (job_id, position, label, job) VALUES (1, 0, 'made', '{"format":"kame-job","version":2,"name":"made so","wall":{"name":"West wall","width":"330 in","height":"114 in"},"figures":{"head_past":"2","barrier_roll_width":"108"},"openings":[{"id":"W1","name":"Bunk room window","left":"30 in","sill":"32 in","width":"36 in","height":"50 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W2","name":"Wash room window","schools":{"cut":"cut-back","sill":"formed-corners","flange":"membrane","head":"cap","seat":"level"},"left":"100 in","sill":"44 in","width":"28 in","height":"36 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W3","name":"Reading window","schools":{"unit":"frame","position":"between","sill":"gussets","seat":"framed","head":"cap"},"left":"172 in","sill":"30 in","width":"44 in","height":"52 in","depth":"8 3/4 in","flange":"1 3/8 in"},{"id":"D1","name":"Store door","schools":{"unit":"door","cut":"flush","sill":"metal","head":"cap"},"left":"258 in","sill":"4 in","width":"38 in","height":"82 in","depth":"5 1/2 in","flange":"1 3/8 in"}],"site":{"from":"2026-11-30","crews":[{"name":"Ada and Bo","trades":["lead","barrier","cladding"],"people":2,"hours":[7,15.5],"off":["2026-12-04"]},{"name":"Window crew","trades":["window"],"people":2,"hours":[8,16]}],"deliveries":[{"what":"D1","on":"2026-12-08"}],"stands":{"latitude":45.5,"longitude":-123.9,"utc_hours":-8,"facing":270}}}');
INSERT INTO history (job_id, position, label, job) VALUES (1, 1, 'rename', '{"format":"kame-job","version":2,"name":"renamed","wall":{"name":"West wall","width":"330 in","height":"114 in"},"figures":{"head_past":"2","barrier_roll_width":"108"},"openings":[{"id":"W1","name":"Bunk room window","left":"30 in","sill":"32 in","width":"36 in","height":"50 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W2","name":"Wash room window","schools":{"cut":"cut-back","sill":"formed-corners","flange":"membrane","head":"cap","seat":"level"},"left":"100 in","sill":"44 in","width":"28 in","height":"36 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W3","name":"Reading window","schools":{"unit":"frame","position":"between","sill":"gussets","seat":"framed","head":"cap"},"left":"172 in","sill":"30 in","width":"44 in","height":"52 in","depth":"8 3/4 in","flange":"1 3/8 in"},{"id":"D1","name":"Store door","schools":{"unit":"door","cut":"flush","sill":"metal","head":"cap"},"left":"258 in","sill":"4 in","width":"38 in","height":"82 in","depth":"5 1/2 in","flange":"1 3/8 in"}],"site":{"from":"2026-11-30","crews":[{"name":"Ada and Bo","trades":["lead","barrier","cladding"],"people":2,"hours":[7,15.5],"off":["2026-12-04"]},{"name":"Window crew","trades":["window"],"people":2,"hours":[8,16]}],"deliveries":[{"what":"D1","on":"2026-12-08"}],"stands":{"latitude":45.5,"longitude":-123.9,"utc_hours":-8,"facing":270}}}');
INSERT INTO history (job_id, position, label, job) VALUES (1, 2, 'rename', '{"format":"kame-job","version":2,"name":"renamed twice","wall":{"name":"West wall","width":"330 in","height":"114 in"},"figures":{"head_past":"2","barrier_roll_width":"108"},"openings":[{"id":"W1","name":"Bunk room window","left":"30 in","sill":"32 in","width":"36 in","height":"50 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W2","name":"Wash room window","schools":{"cut":"cut-back","sill":"formed-corners","flange":"membrane","head":"cap","seat":"level"},"left":"100 in","sill":"44 in","width":"28 in","height":"36 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W3","name":"Reading window","schools":{"unit":"frame","position":"between","sill":"gussets","seat":"framed","head":"cap"},"left":"172 in","sill":"30 in","width":"44 in","height":"52 in","depth":"8 3/4 in","flange":"1 3/8 in"},{"id":"D1","name":"Store door","schools":{"unit":"door","cut":"flush","sill":"metal","head":"cap"},"left":"258 in","sill":"4 in","width":"38 in","height":"82 in","depth":"5 1/2 in","flange":"1 3/8 in"}],"site":{"from":"2026-11-30","crews":[{"name":"Ada and Bo","trades":["lead","barrier","cladding"],"people":2,"hours":[7,15.5],"off":["2026-12-04"]},{"name":"Window crew","trades":["window"],"people":2,"hours":[8,16]}],"deliveries":[{"what":"D1","on":"2026-12-08"}],"stands":{"latitude":45.5,"longitude":-123.9,"utc_hours":-8,"facing":270}}}');
INSERT INTO history (job_id, position, label, job) VALUES (2, 0, 'made', '{"format":"kame-job","version":2,"name":"made so","wall":{"name":"West wall","width":"330 in","height":"114 in"},"figures":{"head_past":"2","barrier_roll_width":"108"},"openings":[{"id":"W1","name":"Bunk room window","left":"30 in","sill":"32 in","width":"36 in","height":"50 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W2","name":"Wash room window","schools":{"cut":"cut-back","sill":"formed-corners","flange":"membrane","head":"cap","seat":"level"},"left":"100 in","sill":"44 in","width":"28 in","height":"36 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W3","name":"Reading window","schools":{"unit":"frame","position":"between","sill":"gussets","seat":"framed","head":"cap"},"left":"172 in","sill":"30 in","width":"44 in","height":"52 in","depth":"8 3/4 in","flange":"1 3/8 in"},{"id":"D1","name":"Store door","schools":{"unit":"door","cut":"flush","sill":"metal","head":"cap"},"left":"258 in","sill":"4 in","width":"38 in","height":"82 in","depth":"5 1/2 in","flange":"1 3/8 in"}],"site":{"from":"2026-11-30","crews":[{"name":"Ada and Bo","trades":["lead","barrier","cladding"],"people":2,"hours":[7,15.5],"off":["2026-12-04"]},{"name":"Window crew","trades":["window"],"people":2,"hours":[8,16]}],"deliveries":[{"what":"D1","on":"2026-12-08"}],"stands":{"latitude":45.5,"longitude":-123.9,"utc_hours":-8,"facing":270}}}');
UPDATE job SET wall = 'as it was', openings = 4, ticked = '{"ticks":["W1/pan"],"rolls":{}}', bench = 1 WHERE id = 1;
UPDATE job SET verdict = 5, verdict_of = 4 WHERE id = 1;
INSERT INTO record (job_id, number, event, entry) VALUES (1, 1, '019a4f00-0002-7000-8000-000000000000', '{"number":1,"taken":"2026-11-24T07:05:14.000Z","event":{"id":"019a4f00-0002-7000-8000-000000000000","who":"Ada Quill","at":"2026-11-24T07:05:12Z","place":"W1","step":"W1/survey","revision":1,"what":{"is":"reading","check":"W1/survey/1:opening-width","values":["36.5","36.5625","36.4375"],"unit":"in","instrument":"","asked":"36\" ± 1/4\"","good":false},"note":""},"before":"0000000000000000000000000000000000000000000000000000000000000000","hash":"96b9f4e59ec32ebae57a204473adaeaeea03dbb72f79f3766ea3f0d26cd18550"}');
INSERT INTO record (job_id, number, event, entry) VALUES (1, 2, '019a4f00-0004-7000-8000-000000000001', '{"number":2,"taken":"2026-11-24T07:07:14.000Z","event":{"id":"019a4f00-0004-7000-8000-000000000001","who":"Ada Quill","at":"2026-11-24T07:07:12Z","place":"W1","step":"W1/survey","revision":1,"what":{"is":"mended","check":"W1/survey/1:opening-width"},"note":"Right jamb packed out with ripped plywood."},"before":"96b9f4e59ec32ebae57a204473adaeaeea03dbb72f79f3766ea3f0d26cd18550","hash":"d6ec235ebb08bf6ea14915e9eb77ab4398de13f3a320984e8e4ddd85abb69fc9"}');
INSERT INTO record (job_id, number, event, entry) VALUES (1, 3, '019a4f00-0006-7000-8000-000000000002', '{"number":3,"taken":"2026-11-24T07:09:14.000Z","event":{"id":"019a4f00-0006-7000-8000-000000000002","who":"Ada Quill","at":"2026-11-24T07:09:12Z","place":"W1","step":"W1/survey","revision":1,"what":{"is":"reading","check":"W1/survey/1:opening-width","values":["36","36.0625","35.9375"],"unit":"in","instrument":"","asked":"36\" ± 1/4\"","good":true},"note":""},"before":"d6ec235ebb08bf6ea14915e9eb77ab4398de13f3a320984e8e4ddd85abb69fc9","hash":"f1fdb3ffc8af2730bc164c7f1eeec687c55f2c27df8efdb9dc4aba8bef3033b3"}');
INSERT INTO practice (who, at, result) VALUES ('Cy Reed', '2026-11-30T01:00:00.000Z', '{"drill":"order","level":1,"points":100.0,"clean":true,"known":[],"missed":[]}');
INSERT INTO person (id, name, login, password, role) VALUES (1, 'Ada', 'ada', '$argon2id$v=19$m=19456,t=2,p=1$bm90IGEgc2FsdA$bm90IGEgaGFzaCBvZiBhbnl0aGluZyBhdCBhbGwhIQ', 'owner');
INSERT INTO job_role (person_id, job_id, role) VALUES (1, 1, 'builder');
INSERT INTO audit (who, what, about) VALUES ('Kame', 'invited', 'owner');
UPDATE history SET who = 'Ada' WHERE job_id = 1 AND position > 0;
UPDATE job SET words = coalesce((
    SELECT group_concat(line, char(10)) FROM (
        SELECT char(9) || coalesce(h.job ->> '$.wall.name', '') AS line
        UNION ALL SELECT char(9) || (value ->> '$.name') FROM json_each(h.job, '$.wall.corners')
        UNION ALL SELECT (value ->> '$.id') || char(9) || (value ->> '$.name') FROM json_each(h.job, '$.openings')
    )), '')
FROM history h
WHERE h.job_id = job.id AND h.position = job.position AND json_valid(h.job);
INSERT INTO way (id, name, way, who) VALUES (1, 'Estuary way', '{}', 'Ada');
