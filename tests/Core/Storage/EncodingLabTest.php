<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Storage\Encodings\EncodingTrial;
use Fulcrion\Core\Storage\Encodings\Lab;
use Fulcrion\Core\Storage\Encodings\LabResult;
use Fulcrion\Core\Storage\Encodings\Place;
use Fulcrion\Core\Storage\Encodings\RowFormat;
use Fulcrion\Core\Storage\Encodings\Variant;
use PHPUnit\Framework\TestCase;

final class EncodingLabTest extends TestCase
{
    public function test_rows_one_behind_the_other_come_back(): void
    {
        $place = new Place(['id' => [1, -5, null], 'name' => ['a', null, ''], 'share' => [0.5, null, -1e9], 'yes' => [true, false, null]]);
        self::assertEquals($place, (new RowFormat($this->columns()))->decode((new RowFormat($this->columns()))->encode($place)));
        // Eight bytes of NULL bits, then what is there: 8 + 8 + (4 + 1) + 8 + 1, then 8 + 8 + 1, then 8 + 4 + 8.
        self::assertSame(30 + 17 + 20, strlen((new RowFormat($this->columns()))->encode($place)));
    }

    public function test_trials_are_put_together_and_their_uncertainty_is_worked_by_hand(): void
    {
        $trial = static fn (string $column, string $encoding, array $bytes, int $read): EncodingTrial => new EncodingTrial(
            $column,
            $encoding,
            'none',
            'as it comes',
            array_values($bytes),
            100,
            $read,
        );
        $result = new LabResult(
            [100, 100],
            ['as it comes' => []],
            [],
            [
                $trial('a', 'plain', [800, 800], 1000),
                $trial('a', 'delta', [100, 140], 4000),
                $trial('b', 'plain', [400, 400], 2000),
                $trial('', 'rows', [1300, 1300], 9000),
            ],
        );
        $variants = $result->variants(['a' => 1.0, 'b' => 0.25]);
        $by = [];
        foreach ($variants as $variant) {
            $by[$variant->policy] = $variant;
        }
        self::assertSame(
            [12.0, 7.5, 15.0],
            [$by['plain']->bytesPerRow, $by['plain']->readWorkNs, $by['plain']->readAllNs],
            'a always, b in a quarter of the executions',
        );
        self::assertSame(['a' => 'delta', 'b' => 'plain'], $by['delta']->encodings, 'what does not suit a column is written plain');
        self::assertSame(['a' => 'delta', 'b' => 'plain'], $by[LabResult::SMALLEST]->encodings);
        self::assertSame(['a' => 'plain', 'b' => 'plain'], $by[LabResult::FASTEST]->encodings);
        self::assertSame(45.0, $by[Variant::ROWS]->readWorkNs, 'whoever wants a column reads whole rows');
        // Places of 500 and 540 bytes: mean 5.2 a row, deviations 20 each, 12.71 x sqrt(800 / 2) / 100 / 5.2.
        self::assertEqualsWithDelta((12.71 * 20) / 100 / 5.2, $by['delta']->uncertainty, 1e-9);
        self::assertSame(
            ['delta', 'plain'],
            array_values(
                array_unique(
                    array_map(
                        static fn (Variant $v): string => $v->policy === LabResult::SMALLEST
                            ? 'delta'
                            : ($v->policy === LabResult::FASTEST
                                ? 'plain'
                                : $v->policy),
                        LabResult::front($variants),
                    ),
                ),
            ),
            'nothing beats them in both',
        );
        self::assertEquals($result, LabResult::fromArray(json_decode((string) json_encode($result->toArray()), true)));
    }

    public function test_uncertainty_is_that_of_so_many_places(): void
    {
        for ($places = 2; $places <= 16; $places++) {
            $bytes = array_map(static fn (int $i): int => 1_000 + ($i % 2 === 0 ? 10 : -10), range(0, $places - 1));
            $result = new LabResult(
                array_fill(0, $places, 100),
                ['as it comes' => []],
                [],
                [new EncodingTrial('a', 'plain', 'none', 'as it comes', $bytes, 100, 5)],
            );
            $variant = $result->variants(['a' => 1.0])[0];
            $mean = array_sum($bytes) / $places;
            $squares = array_sum(array_map(static fn (int $b): float => ($b - $mean) ** 2, $bytes));
            $error = sqrt($squares / ($places * ($places - 1)));
            $quantile = $variant->uncertainty * $variant->bytesPerRow * 100 / $error;
            // Above that quantile of Student's distribution lies a fortieth; from thirteen degrees on two is near enough.
            self::assertEqualsWithDelta(0.025, self::above($quantile, $places - 1), $places < 14 ? 0.0004 : 0.009, "{$places} places");
        }
    }

    /** Student's t above a value, by Simpson's rule over an angle: t = sqrt(n) tan(a). */
    private static function above(float $t, int $degrees): float
    {
        $part = static function (float $from, float $to) use ($degrees): float {
            $steps = 2_000;
            $sum = 0.0;
            for ($i = 0; $i <= $steps; $i++) {
                $weight = $i === 0 || $i === $steps ? 1 : ($i % 2 === 1 ? 4 : 2);
                $sum += $weight * cos($from + ($to - $from) * $i / $steps) ** ($degrees - 1);
            }

            return $sum * ($to - $from) / $steps / 3;
        };

        return $part(atan($t / sqrt($degrees)), M_PI / 2) / $part(-M_PI / 2, M_PI / 2);
    }

    public function test_the_lab_finds_an_order_that_packs_better_and_tells_of_every_column(): void
    {
        $places = [];
        for ($p = 0; $p < 3; $p++) {
            $columns = ['id' => [], 'name' => [], 'share' => [], 'yes' => []];
            for ($i = 0; $i < 600; $i++) {
                $columns['id'][] = ($i * 7919 + $p) % 600;
                $columns['name'][] = ['warm', 'damp', 'bright'][($i * 31) % 3];
                $columns['share'][] = (float) (($i * 13) % 40) / 2;
                $columns['yes'][] = $i % 2 === 0;
            }
            $places[] = new Place($columns);
        }
        self::assertNotSame([], $places);
        $told = [];
        $clock = 0;
        $result = (new Lab(
            $this->columns(),
            256,
            static function () use (&$clock): int {
                return $clock += 10;
            },
            static function (string $what, float $share) use (&$told): void {
                $told[] = $share;
            },
        ))->run($places, ['id']);
        self::assertSame(['as it comes', 'by its key', 'best found'], array_keys($result->orders));
        self::assertEquals(['distinct' => 3, 'run' => 1.0], $result->facts['name']);
        $sorted = $told;
        sort($sorted);
        self::assertSame($sorted, $told, 'progress only grows');
        $least = static fn (string $order): float => min(
            array_map(static fn (Variant $v): float => $v->order === $order ? $v->bytesPerRow : INF, $result->variants([])),
        );
        self::assertLessThan($least('as it comes'), $least('best found'));
    }

    /**
     * @return list<Column>
     */
    private function columns(): array
    {
        return [
            new Column('id', ColumnType::of(TypeKind::Bigint)),
            new Column('name', ColumnType::of(TypeKind::Text)),
            new Column('share', ColumnType::of(TypeKind::Double)),
            new Column('yes', ColumnType::of(TypeKind::Boolean)),
        ];
    }
}
