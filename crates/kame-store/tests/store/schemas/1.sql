-- A database of schema 1 with jobs as they were written then: read, undone and redone by every later one.
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
PRAGMA user_version = 1;
INSERT INTO job (id, name, position, revision, changed) VALUES (1, 'renamed', 1, 4, '2026-11-23T07:00:00.000Z');
INSERT INTO job (id, name, position, revision, changed, deleted) VALUES (2, 'made so', 0, 1, '2026-11-23T07:00:00.000Z', '2026-11-24T07:00:00.000Z');
INSERT INTO history (job_id, position, label, job) VALUES (1, 0, 'made', '{"format":"kame-job","version":1,"name":"made so","wall":{"name":"North wall","width":"180 in","height":"114 in"},"figures":{"head_past":"2"},"openings":[{"id":"W1","name":"Bunk room window","recipe":"flanged/barrier-first","left":"70 in","sill":"30 in","width":"41 in","height":"62 1/2 in","depth":"5 1/2 in","flange":"1 3/8 in"}]}');
INSERT INTO history (job_id, position, label, job) VALUES (1, 1, 'rename', '{"format":"kame-job","version":1,"name":"renamed","wall":{"name":"North wall","width":"180 in","height":"114 in"},"figures":{"head_past":"2"},"openings":[{"id":"W1","name":"Bunk room window","recipe":"flanged/barrier-first","left":"70 in","sill":"30 in","width":"41 in","height":"62 1/2 in","depth":"5 1/2 in","flange":"1 3/8 in"}],"ticks":["W1/pan"]}');
INSERT INTO history (job_id, position, label, job) VALUES (1, 2, 'rename', '{"format":"kame-job","version":1,"name":"renamed twice","wall":{"name":"North wall","width":"180 in","height":"114 in"},"figures":{"head_past":"2"},"openings":[{"id":"W1","name":"Bunk room window","recipe":"flanged/barrier-first","left":"70 in","sill":"30 in","width":"41 in","height":"62 1/2 in","depth":"5 1/2 in","flange":"1 3/8 in"}],"ticks":["W1/pan"]}');
INSERT INTO history (job_id, position, label, job) VALUES (2, 0, 'made', '{"format":"kame-job","version":1,"name":"made so","wall":{"name":"North wall","width":"180 in","height":"114 in"},"figures":{"head_past":"2"},"openings":[{"id":"W1","name":"Bunk room window","recipe":"flanged/barrier-first","left":"70 in","sill":"30 in","width":"41 in","height":"62 1/2 in","depth":"5 1/2 in","flange":"1 3/8 in"}]}');
