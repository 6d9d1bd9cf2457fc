<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Access\Decide\Masking;
use Fulcrion\Core\Access\Policy\Item;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\MaskKind;
use Fulcrion\Core\Sql\Printer;

/**
 * Masks as a practice cluster runs them: values worked out by hand, and the type of every column kept by every mask.
 */
final class MaskTest extends WarehouseTestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        $this->sql('CREATE TABLE s.t (n bigint, x double, d decimal(8, 2), v text, b boolean, day date, at timestamp)');
        $this->sql(
            "INSERT INTO s.t VALUES (1234, 5.5, 47.25, 'ada@brook.example', true, DATE '1987-08-19', TIMESTAMP '2026-11-23 15:04:05'), "
                ."(NULL, NULL, NULL, NULL, NULL, NULL, NULL), (-7, 0, -3, 'ad', false, DATE '2026-01-01', TIMESTAMP '2026-01-01 00:00:00')",
        );
    }

    /**
     * @param  array<string, mixed>  $fields
     */
    private static function mask(MaskKind $kind, array $fields = []): Item
    {
        $item = Item::of(Kind::Masks, 'm', ['shows' => $kind->value] + $fields);
        self::assertInstanceOf(Item::class, $item);

        return $item;
    }

    /**
     * @return list<string|null>
     */
    private function masked(Item $mask, string $column): array
    {
        $types = [];
        foreach ($this->warehouse->table('s', 't')?->manifest()->definition->columns ?? [] as $one) {
            $types[$one->name] = $one->type;
        }
        $outcome = $this->sql(
            'SELECT '.(new Printer())->expression((new Masking())->of($mask, $column, $types[$column])).' AS m FROM s.t',
        );
        self::assertSame((string) $types[$column], (string) $outcome->columns[0]->type, "{$mask->text('shows')} of {$column}");

        return array_map(
            static fn (array $row): ?string => $row[0] === null ? null : $outcome->columns[0]->type->show($row[0]),
            $outcome->rows,
        );
    }

    public function test_what_is_left_of_values(): void
    {
        $left = fn (MaskKind $kind, array $fields, string $column): array => $this->masked(self::mask($kind, $fields), $column);
        self::assertSame(['***ple', '***', '***'], $left(MaskKind::Last, ['count' => 3], 'v'));
        self::assertSame(['ad***', '***', '***'], $left(MaskKind::First, ['count' => 2], 'v'));
        self::assertSame(['***@brook.example', '***', '***'], $left(MaskKind::EmailDomain, [], 'v'));
        self::assertSame(['***', '***', '***'], $left(MaskKind::Nothing, [], 'v'));
        self::assertSame([null, null, null], $left(MaskKind::Nothing, [], 'd'));
        self::assertSame(['1200', null, '-100'], $left(MaskKind::Rounded, ['step' => '100'], 'n'));
        self::assertSame(['40.00', null, '-10.00'], $left(MaskKind::Rounded, ['step' => '10'], 'd'));
        self::assertSame(['1987-07-01', null, '2026-01-01'], $left(MaskKind::Rounded, ['step' => 'quarter'], 'day'));
        self::assertSame(['1987-01-01', null, '2026-01-01'], $left(MaskKind::Year, [], 'day'));
        self::assertSame(['hidden', 'hidden', 'hidden'], $left(MaskKind::Fixed, ['text' => 'hidden'], 'v'));
        self::assertSame(['0', '0', '0'], $left(MaskKind::Fixed, ['text' => '0'], 'n'));
        self::assertSame(['ADA@BROOK.EXAMPLE', null, 'AD'], $left(MaskKind::Expression, ['text' => 'upper(value)'], 'v'));
    }

    public function test_every_mask_keeps_every_type(): void
    {
        foreach (MaskKind::cases() as $kind) {
            foreach (['n', 'x', 'd', 'v', 'b', 'day', 'at'] as $column) {
                $fields = match ($kind) {
                    MaskKind::First, MaskKind::Last => ['count' => 2],
                    MaskKind::Rounded => ['step' => in_array($column, ['day', 'at'], true) ? 'month' : '10'],
                    MaskKind::Fixed => ['text' => '1'],
                    MaskKind::Expression => ['text' => 'value'],
                    default => [],
                };
                self::assertCount(3, $this->masked(self::mask($kind, $fields), $column));
            }
        }
    }

    public function test_keyed_hashes_join_within_a_cluster_and_nowhere_else(): void
    {
        $this->sql('CREATE TABLE s.u (v text)');
        $this->sql("INSERT INTO s.u VALUES ('ada@brook.example')");
        self::assertSame([[1]], $this->sql('SELECT count(*) FROM s.t JOIN s.u ON keyed_hash(t.v) = keyed_hash(u.v)')->rows);
        $hash = $this->masked(self::mask(MaskKind::Hash), 'v')[0];
        self::assertSame(24, strlen((string) $hash));
        self::assertNotSame(substr(hash('sha256', 'ada@brook.example'), 0, 24), $hash);
        self::assertSame('0600', substr(sprintf('%o', fileperms($this->warehouse->root.'/hash.key')), -4));
    }
}
