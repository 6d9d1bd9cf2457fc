<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Answers;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Small tables full of NULLs, ties and decimals, on which two engines must agree.
 */
final readonly class AnswerTables
{
    /**
     * @return array<string, array{list<Column>, list<list<int|float|string|bool|null>>, string}> name => columns, rows,
     *     options of the practice cluster
     */
    public static function all(): array
    {
        $random = new Randomizer(new Mt19937(46));
        $of = static fn (TypeKind $kind): ColumnType => ColumnType::of($kind);
        $day = intdiv((int) strtotime('2026-02-01 00:00:00 UTC'), 86400);
        $maybe = static fn (mixed $value, int $percent): mixed => $random->getInt(1, 100) <= $percent ? null : $value;
        $crews = ['Aldo', 'Bree', 'Cyra', 'Dorn', 'Émile', "Zo'e"];
        $picks = [];
        for ($id = 1; $id <= 400; $id++) {
            $date = $day + $random->getInt(0, 57);
            $picks[] = [
                $id,
                $maybe($random->getInt(1, 8), 4),
                $maybe($random->getInt(1, 22), 5),
                $maybe($crews[$random->getInt(0, 5)], 8),
                $maybe($random->getInt(0, 5000), 7),
                $maybe($date, 3),
                $maybe($date * 86_400_000_000 + $random->getInt(0, 86_399) * 1_000_000, 3),
                $maybe($random->getInt(0, 1) === 1, 6),
                $maybe($random->getInt(0, 1000) / 1000, 5),
            ];
        }
        $varieties = [];
        $families = ['pepper', 'herb', 'flower', null];
        for ($id = 1; $id <= 20; $id++) {
            $varieties[] = [$id, "variety {$id}", $families[$random->getInt(0, 3)], $random->getInt(500, 6000)];
        }
        $bays = [];
        $houses = ['north', 'south', 'east'];
        for ($id = 1; $id <= 12; $id++) {
            $bays[] = [$id, $houses[$random->getInt(0, 2)], $random->getInt(100, 900) / 4];
        }
        $days = [];
        for ($i = 0; $i < 90; $i++) {
            $days[] = [$day + $i, (int) gmdate('W', ($day + $i) * 86400), $i < 28 ? 'winter' : 'spring'];
        }
        $whole = $of(TypeKind::Bigint);
        $text = $of(TypeKind::Text);

        return [
            'pick' => [
                [
                    new Column('id', $whole, false),
                    new Column('bay', $whole),
                    new Column('variety', $whole),
                    new Column('crew', $text),
                    new Column('kilos', ColumnType::decimal(10, 2)),
                    new Column('picked', $of(TypeKind::Date)),
                    new Column('seen_at', $of(TypeKind::Timestamp)),
                    new Column('ripe', $of(TypeKind::Boolean)),
                    new Column('score', $of(TypeKind::Double)),
                ],
                $picks,
                'PLACED BY (bay) CUT BY MONTH OF picked SORTED BY (seen_at) CHUNKS OF 25 ROWS',
            ],
            'variety' => [
                [
                    new Column('id', $whole, false),
                    new Column('name', $text),
                    new Column('family', $text),
                    new Column('price', ColumnType::decimal(8, 3)),
                ],
                $varieties,
                'PLACED EVERYWHERE',
            ],
            'bay' => [
                [new Column('id', $whole, false), new Column('house', $text), new Column('area', $of(TypeKind::Double))],
                $bays,
                'PLACED BY (id)',
            ],
            'calendar' => [
                [new Column('day', $of(TypeKind::Date), false), new Column('week', $whole), new Column('season', $text)],
                $days,
                'PLACED EVENLY CHUNKS OF 10 ROWS',
            ],
            'empty_log' => [
                [new Column('id', $whole), new Column('note', $text), new Column('amount', ColumnType::decimal(8, 2))],
                [],
                'PLACED BY (id)',
            ],
        ];
    }
}
