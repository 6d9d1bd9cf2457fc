<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Sql\Instead\Instead;
use Fulcrion\Core\Sql\Instead\Suggestion;

/**
 * What could be written instead gives the same rows, NULLs and repeats included.
 */
final class InsteadTest extends WarehouseTestCase
{
    public function test_every_suggestion_answers_as_the_statement_does(): void
    {
        $this->sql('CREATE TABLE bay (id bigint NOT NULL, house text, area bigint)');
        $this->sql('CREATE TABLE pick (id bigint NOT NULL, bay bigint, kilos bigint, picked_at timestamp)');
        $this->sql("INSERT INTO bay VALUES (1, 'a', 10), (2, 'b', NULL), (3, NULL, 30), (4, 'a', 40)");
        $this->sql(
            "INSERT INTO pick VALUES (1, 1, 5, '2026-11-01 08:00:00'), (2, 1, NULL, '2026-11-01 23:59:59.999999'), (3, 2, 7, "
                ."'2026-11-02 00:00:00'), (4, NULL, 9, NULL), (5, 3, 50, '2026-11-02 10:00:00'), (6, 1, 5, '2026-11-03 00:00:00')",
        );
        $instead = new Instead([
            's.bay' => ['id' => 'bigint', 'house' => 'text', 'area' => 'bigint'],
            's.pick' => ['id' => 'bigint', 'bay' => 'bigint', 'kilos' => 'bigint', 'picked_at' => 'timestamp'],
        ]);
        foreach (
            [
                'span' => [
                    "SELECT id FROM pick WHERE cast(picked_at AS date) = date '2026-11-01'",
                    "SELECT count(*) FROM s.pick p WHERE date_trunc('day', p.picked_at) >= timestamp '2026-11-02 00:00:00'",
                ],
                'branches' => [
                    'SELECT id, kilos FROM pick WHERE bay = 1 OR kilos > 6',
                    'SELECT p.id FROM pick p JOIN bay b ON b.id = p.bay WHERE p.id > 0 AND (b.area > 5 OR p.kilos = 7)',
                ],
                'join' => [
                    'SELECT b.id, (SELECT count(*) FROM pick p WHERE p.bay = b.id AND p.kilos > 4) AS n FROM bay b',
                    'SELECT b.house, (SELECT sum(kilos) FROM pick p WHERE p.bay = b.id) FROM bay b WHERE b.id > 1 ORDER BY b.house',
                ],
                'exists' => [
                    'SELECT DISTINCT b.house FROM bay b JOIN pick p ON p.bay = b.id WHERE p.kilos > 4',
                    'SELECT DISTINCT p.kilos FROM bay b JOIN pick p ON p.bay = b.id AND b.area > 5 WHERE p.id < 6 ORDER BY p.kilos',
                ],
                'columns' => ['SELECT * FROM bay WHERE area > 5'],
            ] as $id => $statements
        ) {
            foreach ($statements as $sql) {
                $found = array_values(array_filter($instead->of($sql, 's'), static fn (Suggestion $s): bool => $s->id === $id));
                self::assertCount(1, $found, "{$id}: {$sql}");
                self::assertEqualsCanonicalizing($this->rows($sql), $this->rows($found[0]->sql), $found[0]->sql);
            }
        }
        foreach (
            [
                'SELECT house, count(*) FROM bay WHERE id = 1 OR area = 3 GROUP BY house',
                'SELECT DISTINCT b.house, p.id FROM bay b JOIN pick p ON p.bay = b.id',
                'SELECT id FROM pick WHERE bay = 1 OR bay = 2',
                'INSERT INTO bay VALUES (9, NULL, NULL)',
            ] as $sql
        ) {
            self::assertSame([], $instead->of($sql, 's'), $sql);
        }
    }
}
