<?php

declare(strict_types=1);

namespace Tests\Core\Statements;

use Fulcrion\Core\Statements\Symptoms\Counted;
use Fulcrion\Core\Statements\Symptoms\SymptomKind;
use Fulcrion\Core\Statements\Symptoms\Symptoms;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class SymptomsTest extends TestCase
{
    private const JOIN = 'SELECT k.name FROM pick p JOIN crew k ON k.code = p.code';

    /**
     * @return iterable<string, array{Counted, list<SymptomKind>}>
     */
    public static function statements(): iterable
    {
        $scan = [SymptomKind::ReadsWithoutIndex];
        yield 'a join that looks at all' => [new Counted(self::JOIN, 10, 500_000, 200_000, 2_000, unindexed: 10), $scan];
        yield 'once without an index is enough' => [new Counted(self::JOIN, 10, 500_000, 200_000, 2_000, unindexed: 1), $scan];
        yield 'by an index' => [new Counted(self::JOIN, 10, 500_000, 200_000, 2_000), []];
        yield 'too short' => [new Counted(self::JOIN, 10, 499_999, 200_000, 2_000, unindexed: 10), []];
        yield 'few rows' => [new Counted(self::JOIN, 10, 500_000, 199_999, 0, unindexed: 10), []];
        yield 'most of what it looks at is given' => [new Counted(self::JOIN, 10, 500_000, 200_000, 2_001, unindexed: 10), []];
        yield 'most of what it looks at is changed' => [
            new Counted('UPDATE pick SET kilos = ? WHERE note = ?', 10, 500_000, 200_000, 0, 2_001, 10), [],
        ];
        yield 'an update that looks for its row' => [
            new Counted('UPDATE pick SET kilos = ? WHERE note = ?', 10, 500_000, 200_000, 0, 10, 10), $scan,
        ];
        yield 'asked for all' => [new Counted('SELECT SUM(kilos) FROM pick', 10, 500_000, 200_000, 10, unindexed: 10), []];
        yield 'a table on disk in each run' => [
            new Counted('SELECT note FROM pick GROUP BY note', 2, 500_000, tmpDisk: 2), [SymptomKind::TemporaryTablesOnDisk],
        ];
        yield 'in one run of two' => [new Counted('SELECT note FROM pick GROUP BY note', 2, 500_000, tmpDisk: 1), []];
        yield 'in the only run' => [new Counted('SELECT note FROM pick GROUP BY note', 1, 900_000, tmpDisk: 3), []];
        yield 'on disk, but short' => [new Counted('SELECT note FROM pick GROUP BY note', 9, 499_999, tmpDisk: 9), []];
        yield 'of the catalog' => [new Counted('SELECT * FROM information_schema.COLUMNS', 9, 500_000, tmpDisk: 9), []];
        yield 'fails half of the time' => [new Counted('DELETE FROM pick', 10, 5, failed: 5), [SymptomKind::Fails]];
        yield 'fails less' => [new Counted('DELETE FROM pick', 11, 5, failed: 5), []];
        yield 'failed four times' => [new Counted('DELETE FROM pick', 4, 5, failed: 4), []];
        yield 'all of it' => [new Counted(self::JOIN, 10, 500_000, 200_000, 0, 0, 10, 10, 10), SymptomKind::cases()];
        yield 'nothing ran' => [new Counted(self::JOIN, 0, 0), []];
    }

    /**
     * @param  list<SymptomKind>  $expected
     */
    #[DataProvider('statements')]
    public function test_symptoms(Counted $counted, array $expected): void
    {
        self::assertSame($expected, Symptoms::of($counted));
    }

    public function test_what_is_told_of_one_run(): void
    {
        $counted = new Counted(self::JOIN, 4, 1_000, 600, 20, 5);
        self::assertSame([24.0, 150.0, 250.0], [$counted->examinedForOne(), $counted->examinedEach(), $counted->meanUs()]);
        $none = new Counted(self::JOIN, 0, 0, 0);
        self::assertSame([0.0, 0.0, 0.0], [$none->examinedForOne(), $none->examinedEach(), $none->meanUs()]);
    }
}
