<?php

declare(strict_types=1);

namespace Tests\Core\Access;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * What is made of statements of every shape for somebody who sees rows below 9 of a table, and not its column wage.
 */
final class ShapesTest extends TestCase
{
    /**
     * @return iterable<string, array{string}>
     */
    public static function shapes(): iterable
    {
        yield 'SELECT *' => ['SELECT * needs a FROM.'];
        yield 'SELECT q.* FROM people.crew' => ['There is no q here whose columns * could mean.'];
        yield 'SELECT c.*, 1 AS one FROM people.crew AS c' => [
            'SELECT c.*, 1 AS one FROM (SELECT id, name, phone, born FROM people.crew WHERE id < 9) AS c',
        ];
        yield 'SELECT count(*) FROM people.crew' => ['SELECT count(*) FROM (SELECT id FROM people.crew WHERE id < 9) AS crew'];
        yield 'SELECT 1 FROM people.crew' => ['SELECT 1 FROM (SELECT id FROM people.crew WHERE id < 9) AS crew'];
        yield 'SELECT x.b FROM people.crew AS x (a, b, c, d, e)' => ['c.people.crew.wage is hidden for ann: rule p hides it.'];
        yield 'SELECT x.d FROM people.crew AS x (a, b, c, d, e)' => ['c.people.crew.wage is hidden for ann: rule p hides it.'];
        yield 'SELECT x.* FROM people.crew AS x (a, b)' => ['c.people.crew.wage is hidden for ann: rule p hides it.'];
        yield 'SELECT id FROM people.crew AS a WHERE EXISTS (SELECT wage FROM people.crew)' => [
            'c.people.crew.wage is hidden for ann: rule p hides it.',
        ];
        yield 'SELECT bay FROM field.pick AS p WHERE EXISTS (SELECT 1 FROM people.crew AS c WHERE c.id = p.id)' => [
            'SELECT bay FROM field.pick AS p WHERE EXISTS (SELECT 1 FROM (SELECT id FROM people.crew WHERE id < 9) AS c WHERE c.id = p.id)',
        ];
        yield 'SELECT (SELECT max(name) FROM people.crew AS c WHERE c.id = p.id) AS n FROM field.pick AS p' => [
            'SELECT (SELECT max(name) FROM (SELECT id, name FROM people.crew WHERE id < 9) AS c WHERE c.id = p.id) AS n FROM field.pick '
                .'AS p',
        ];
        yield 'SELECT bay FROM field.pick WHERE id > ALL (SELECT id FROM people.crew)' => [
            'SELECT bay FROM field.pick WHERE id > ALL (SELECT id FROM (SELECT id FROM people.crew WHERE id < 9) AS crew)',
        ];
        yield 'WITH q AS (SELECT id, name FROM people.crew), r (n) AS (SELECT name FROM q) SELECT n FROM r' => [
            'WITH q AS (SELECT id, name FROM (SELECT id, name FROM people.crew WHERE id < 9) AS crew), r (n) AS (SELECT name FROM q) '
                .'SELECT n FROM r',
        ];
        yield 'WITH crew AS (SELECT 1 AS id) SELECT id FROM crew' => ['WITH crew AS (SELECT 1 AS id) SELECT id FROM crew'];
        yield 'SELECT id FROM people.crew UNION SELECT id FROM field.pick ORDER BY 1 LIMIT 3' => [
            'SELECT id FROM (SELECT id FROM people.crew WHERE id < 9) AS crew UNION SELECT id FROM field.pick ORDER BY 1 LIMIT 3',
        ];
        yield 'SELECT a.name FROM people.crew AS a JOIN people.crew AS b USING (id)' => [
            'SELECT a.name FROM (SELECT id, name FROM people.crew WHERE id < 9) AS a JOIN (SELECT id FROM people.crew WHERE id < 9) AS '
                .'b USING (id)',
        ];
        yield 'SELECT name FROM people.crew AS a NATURAL JOIN field.pick' => [
            'SELECT name FROM (SELECT id, name FROM people.crew WHERE id < 9) AS a JOIN field.pick USING (id)',
        ];
        yield 'SELECT a.id FROM people.crew AS a NATURAL JOIN people.crew AS b' => [
            'c.people.crew.wage is hidden for ann: rule p hides it.',
        ];
        yield 'SELECT p.bay, c.name FROM field.pick AS p LEFT JOIN people.crew AS c ON c.id = p.id AND c.born IS NULL' => [
            'SELECT p.bay, c.name FROM field.pick AS p LEFT JOIN (SELECT id, name, born FROM people.crew WHERE id < 9) AS c ON c.id = '
                .'p.id AND c.born IS NULL',
        ];
        yield 'SELECT name, rank() OVER (PARTITION BY born ORDER BY id) FROM people.crew' => [
            'SELECT name, rank() OVER (PARTITION BY born ORDER BY id) FROM (SELECT id, name, born FROM people.crew WHERE id < 9) AS crew',
        ];
        yield 'SELECT born, count(*) AS n FROM people.crew GROUP BY 1 HAVING count(*) > 1 ORDER BY n DESC' => [
            'SELECT born, count(*) AS n FROM (SELECT born FROM people.crew WHERE id < 9) AS crew GROUP BY 1 HAVING count(*) > 1 ORDER '
                .'BY n DESC',
        ];
        yield 'SELECT d.n FROM (SELECT name AS n, id FROM people.crew) AS d WHERE d.id = 2' => [
            'SELECT d.n FROM (SELECT name AS n, id FROM (SELECT id, name FROM people.crew WHERE id < 9) AS crew) AS d WHERE d.id = 2',
        ];
        yield 'SELECT * FROM people.crew AS c, field.pick AS p WHERE c.id = p.id' => [
            'SELECT * FROM (SELECT id, name, phone, born FROM people.crew WHERE id < 9) AS c CROSS JOIN field.pick AS p WHERE c.id = p.id',
        ];
        yield 'SELECT name FROM people.crew FOR SYSTEM_TIME AS OF TIMESTAMP \'2026-11-01 00:00:00\'' => [
            'SELECT name FROM (SELECT name FROM people.crew FOR SYSTEM_TIME AS OF TIMESTAMP \'2026-11-01 00:00:00\' WHERE id < 9) AS crew',
        ];
        yield 'SELECT v.a FROM (VALUES (1), (2)) AS v (a)' => ['SELECT v.a FROM (VALUES (1), (2)) AS v (a)'];
        yield 'SELECT id FROM nowhere.x' => ['There is no table or view nowhere.x on c.'];
        yield 'SELECT nobody FROM people.crew' => ['There is no column nobody here.'];
        yield 'SELECT id FROM people.crew AS a, people.crew AS b' => [
            'SELECT id FROM (SELECT id FROM people.crew WHERE id < 9) AS a CROSS JOIN (SELECT id FROM people.crew WHERE id < 9) AS b',
        ];
        yield 'WITH RECURSIVE q AS (SELECT 1 AS n UNION ALL SELECT n + 1 FROM q) SELECT n FROM q' => [
            'WITH RECURSIVE cannot be decided: which rows it reads is known only while it runs.',
        ];
        yield 'SELECT tel FROM people.list' => [
            'SELECT tel FROM (SELECT tel FROM (SELECT id AS id, name AS called, phone AS tel, CAST(NULL AS double) AS pay FROM (SELECT '
                .'id, name, phone FROM people.crew WHERE id < 9 AND id < 9) AS crew WHERE id > 0) AS seen) AS list',
        ];
        yield 'SELECT l.pay FROM people.list AS l' => [
            'c.people.list.pay is hidden for ann: it comes from c.people.crew.wage, and rule p hides it.',
        ];
        yield 'SELECT x.c FROM people.list AS x (a, b, c)' => [
            'c.people.list.pay is hidden for ann: it comes from c.people.crew.wage, and rule p hides it.',
        ];
        yield 'INSERT INTO field.pick (id) SELECT id FROM people.crew' => [
            'INSERT INTO field.pick (id) SELECT id FROM (SELECT id FROM people.crew WHERE id < 9) AS crew',
        ];
        yield 'SELECT DISTINCT name FROM people.crew ORDER BY name' => [
            'SELECT DISTINCT name FROM (SELECT name FROM people.crew WHERE id < 9) AS crew ORDER BY name',
        ];
        yield 'SELECT id FROM people.crew EXCEPT SELECT id FROM people.crew INTERSECT SELECT id FROM field.pick' => [
            'SELECT id FROM (SELECT id FROM people.crew WHERE id < 9) AS crew EXCEPT SELECT id FROM (SELECT id FROM people.crew WHERE '
                .'id < 9) AS crew INTERSECT SELECT id FROM field.pick',
        ];
        yield 'SELECT CASE WHEN born IS NULL THEN name ELSE upper(name) END AS n FROM people.crew' => [
            'SELECT CASE WHEN born IS NULL THEN name ELSE upper(name) END AS n FROM (SELECT name, born FROM people.crew WHERE id < 9) '
                .'AS crew',
        ];
        yield 'SELECT id AS born FROM people.crew ORDER BY born' => [
            'SELECT id AS born FROM (SELECT id FROM people.crew WHERE id < 9) AS crew ORDER BY born',
        ];
        yield 'SELECT id AS k FROM people.crew GROUP BY k' => [
            'SELECT id AS k FROM (SELECT id FROM people.crew WHERE id < 9) AS crew GROUP BY k',
        ];
    }

    #[DataProvider('shapes')]
    public function test_each_shape_is_narrowed_where_it_reads(string $expected): void
    {
        $policy = SampleAccess::policy([
            'grants' => ['write' => ['effect' => 'allow', 'privileges' => ['insert'], 'on' => 'c', 'to' => ['role:crew']]],
            'rules' => [
                'f' => ['scope' => 'c.people.crew', 'for' => ['everyone'], 'effect' => 'filter', 'filter' => 'id < 9'],
                'p' => ['scope' => 'estate', 'for' => ['everyone'], 'when' => "labelled('pay')", 'effect' => 'hide'],
            ],
        ]);
        self::assertSame($expected, SampleAccess::answer($policy, (string) $this->dataName()));
    }
}
