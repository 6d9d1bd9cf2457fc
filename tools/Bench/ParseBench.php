<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Statistics\Spread;
use PhpParser\ParserFactory;

/**
 * SQL to syntax trees, beside the best parser written in PHP on PHP source that says the same, statement for statement.
 */
final class ParseBench implements Measurement
{
    private const PAIRS = [
        [
            'SELECT g.region, p.grade, count(*) AS picks, sum(p.kilos) AS kilos FROM pick AS p WHERE p.picked_at >= 20260110 AND p.bay '
                ."IN (1, 2, 3) AND NOT (p.kilos < 4 OR p.crew = 'x') GROUP BY g.region, p.grade;\n",
            '$q = select($g->region, $p->grade, count(), picks(sum($p->kilos)), from($p)); if ($p->pickedAt >= 20260110 && '
                ."in(\$p->bay, [1, 2, 3]) && !(\$p->kilos < 4 || \$p->crew === 'x')) { group(\$g->region, \$p->grade); }\n",
        ],
        [
            'SELECT CASE WHEN a.x > 3 THEN a.y * 2 + 1 ELSE coalesce(a.z, 0) END AS v, substring(a.word, 1, 3) FROM t AS a JOIN u AS b '
                ."ON a.id = b.id WHERE b.day BETWEEN 10 AND 20 ORDER BY v DESC LIMIT 10;\n",
            '$v = $a->x > 3 ? $a->y * 2 + 1 : coalesce($a->z, 0); $w = substring($a->word, 1, 3); foreach (join($t, $u) as $a '
                ."=> \$b) { if (\$a->id === \$b->id && \$b->day >= 10 && \$b->day <= 20) { order(\$v, -1, 10); } }\n",
        ],
        [
            "INSERT INTO field.reading (bay, kind, value) VALUES (17, 'heat', 20.5), (18, 'heat', 21.25), (19, 'light', 0.75);\n",
            "\$field->reading->insert(['bay', 'kind', 'value'], [[17, 'heat', 20.5], [18, 'heat', 21.25], [19, 'light', 0.75]]);\n",
        ],
        [
            "UPDATE stock SET left_over = left_over - 1, touched = now() WHERE id = 5 AND left_over > 0;\n",
            "if (\$stock->id === 5 && \$stock->leftOver > 0) { \$stock->leftOver = \$stock->leftOver - 1; \$stock->touched = now(); }\n",
        ],
    ];

    private const COPIES = 400;

    private const ROUNDS = 7;

    public function name(): string
    {
        return 'parse';
    }

    public function run(Closure $say): iterable
    {
        $sql = str_repeat(implode('', array_column(self::PAIRS, 0)), self::COPIES);
        $php = "<?php\n".str_repeat(implode('', array_column(self::PAIRS, 1)), self::COPIES);
        $ours = new Parser();
        $theirs = (new ParserFactory())->createForHostVersion();
        $times = ['sql' => [], 'php' => []];
        $statements = 0;
        for ($round = 0; $round <= self::ROUNDS; $round++) {
            $say("round {$round}");
            $began = hrtime(true);
            $statements = count($ours->statements($sql));
            $times['sql'][] = (hrtime(true) - $began) / 1e9;
            $began = hrtime(true);
            $theirs->parse($php);
            $times['php'][] = (hrtime(true) - $began) / 1e9;
        }
        $speed = static function (string $name, string $text) use ($times): float {
            $list = array_slice($times[$name], 1);
            sort($list);

            return strlen($text) / Spread::median($list) / 1e6;
        };
        yield BenchFigure::of('statements read a round', $statements, 'statements');
        yield BenchFigure::of('nikic/php-parser', $speed('php', $php), 'MB/s');
        yield BenchFigure::of('SQL to syntax trees', $speed('sql', $sql), 'MB/s');
        yield BenchFigure::atLeast('SQL / PHP, bytes a second', $speed('sql', $sql) / $speed('php', $php), 1, 'times as fast');
    }
}
