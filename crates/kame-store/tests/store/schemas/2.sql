-- A database of schema 2 with jobs as they were written then: read, undone and redone by every later one.
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
PRAGMA application_id = 1262570821;
PRAGMA user_version = 2;
INSERT INTO job (id, name, position, revision, changed) VALUES (1, 'renamed', 1, 4, '2026-11-23T07:00:00.000Z');
INSERT INTO job (id, name, position, revision, changed, deleted) VALUES (2, 'made so', 0, 1, '2026-11-23T07:00:00.000Z', '2026-11-24T07:00:00.000Z');
INSERT INTO history (job_id, position, label, job) VALUES (1, 0, 'made', '{"format":"kame-job","version":2,"name":"made so","wall":{"name":"West wall","width":"330 in","height":"114 in"},"figures":{"head_past":"2","barrier_roll_width":"108"},"openings":[{"id":"W1","name":"Bunk room window","left":"30 in","sill":"32 in","width":"36 in","height":"50 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W2","name":"Wash room window","schools":{"cut":"cut-back","sill":"formed-corners","flange":"membrane","head":"cap","seat":"level"},"left":"100 in","sill":"44 in","width":"28 in","height":"36 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W3","name":"Reading window","schools":{"unit":"frame","position":"between","sill":"gussets","seat":"framed","head":"cap"},"left":"172 in","sill":"30 in","width":"44 in","height":"52 in","depth":"8 3/4 in","flange":"1 3/8 in"},{"id":"D1","name":"Store door","schools":{"unit":"door","cut":"flush","sill":"metal","head":"cap"},"left":"258 in","sill":"4 in","width":"38 in","height":"82 in","depth":"5 1/2 in","flange":"1 3/8 in"}]}');
INSERT INTO history (job_id, position, label, job) VALUES (1, 1, 'rename', '{"format":"kame-job","version":2,"name":"renamed","wall":{"name":"West wall","width":"330 in","height":"114 in"},"figures":{"head_past":"2","barrier_roll_width":"108"},"openings":[{"id":"W1","name":"Bunk room window","left":"30 in","sill":"32 in","width":"36 in","height":"50 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W2","name":"Wash room window","schools":{"cut":"cut-back","sill":"formed-corners","flange":"membrane","head":"cap","seat":"level"},"left":"100 in","sill":"44 in","width":"28 in","height":"36 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W3","name":"Reading window","schools":{"unit":"frame","position":"between","sill":"gussets","seat":"framed","head":"cap"},"left":"172 in","sill":"30 in","width":"44 in","height":"52 in","depth":"8 3/4 in","flange":"1 3/8 in"},{"id":"D1","name":"Store door","schools":{"unit":"door","cut":"flush","sill":"metal","head":"cap"},"left":"258 in","sill":"4 in","width":"38 in","height":"82 in","depth":"5 1/2 in","flange":"1 3/8 in"}]}');
INSERT INTO history (job_id, position, label, job) VALUES (1, 2, 'rename', '{"format":"kame-job","version":2,"name":"renamed twice","wall":{"name":"West wall","width":"330 in","height":"114 in"},"figures":{"head_past":"2","barrier_roll_width":"108"},"openings":[{"id":"W1","name":"Bunk room window","left":"30 in","sill":"32 in","width":"36 in","height":"50 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W2","name":"Wash room window","schools":{"cut":"cut-back","sill":"formed-corners","flange":"membrane","head":"cap","seat":"level"},"left":"100 in","sill":"44 in","width":"28 in","height":"36 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W3","name":"Reading window","schools":{"unit":"frame","position":"between","sill":"gussets","seat":"framed","head":"cap"},"left":"172 in","sill":"30 in","width":"44 in","height":"52 in","depth":"8 3/4 in","flange":"1 3/8 in"},{"id":"D1","name":"Store door","schools":{"unit":"door","cut":"flush","sill":"metal","head":"cap"},"left":"258 in","sill":"4 in","width":"38 in","height":"82 in","depth":"5 1/2 in","flange":"1 3/8 in"}]}');
INSERT INTO history (job_id, position, label, job) VALUES (2, 0, 'made', '{"format":"kame-job","version":2,"name":"made so","wall":{"name":"West wall","width":"330 in","height":"114 in"},"figures":{"head_past":"2","barrier_roll_width":"108"},"openings":[{"id":"W1","name":"Bunk room window","left":"30 in","sill":"32 in","width":"36 in","height":"50 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W2","name":"Wash room window","schools":{"cut":"cut-back","sill":"formed-corners","flange":"membrane","head":"cap","seat":"level"},"left":"100 in","sill":"44 in","width":"28 in","height":"36 in","depth":"5 1/2 in","flange":"1 3/8 in"},{"id":"W3","name":"Reading window","schools":{"unit":"frame","position":"between","sill":"gussets","seat":"framed","head":"cap"},"left":"172 in","sill":"30 in","width":"44 in","height":"52 in","depth":"8 3/4 in","flange":"1 3/8 in"},{"id":"D1","name":"Store door","schools":{"unit":"door","cut":"flush","sill":"metal","head":"cap"},"left":"258 in","sill":"4 in","width":"38 in","height":"82 in","depth":"5 1/2 in","flange":"1 3/8 in"}]}');
UPDATE job SET wall = 'as it was', openings = 4, ticked = '{"ticks":["W1/pan"],"rolls":{}}', bench = 1 WHERE id = 1;
