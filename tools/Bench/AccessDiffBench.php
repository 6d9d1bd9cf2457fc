<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Access\Change\AskedQuery;
use Fulcrion\Core\Access\Change\BlastRadius;
use Fulcrion\Core\Access\Change\Replay;
use Fulcrion\Tools\Worlds\LargePolicy;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Who gains and loses by a draft, and what becomes of a month of statements.
 */
final class AccessDiffBench implements Measurement
{
    private const EXECUTIONS = 300_000;

    private const STATEMENTS = 420;

    public function name(): string
    {
        return 'access-diff';
    }

    public function run(Closure $say): iterable
    {
        $say('making the policy');
        $large = new LargePolicy();
        $edited = $large->edited();
        $say('comparing');
        $began = hrtime(true);
        $shifts = (new BlastRadius($large->policy(), $large->policy($edited)))->shifts();
        $seconds = (hrtime(true) - $began) / 1e9;
        yield BenchFigure::of('groups of people and columns that change alike', count($shifts), 'groups');
        yield BenchFigure::atMost('blast radius, 2 000 people and 20 000 columns', $seconds, 3, 's');
        $say('asking again');
        $asked = $this->asked();
        $began = hrtime(true);
        $replay = (new Replay($large->policy(), $large->policy($edited)))->run($asked);
        $seconds = (hrtime(true) - $began) / 1e9;
        yield BenchFigure::of('statements by person', count($asked), 'statements');
        yield BenchFigure::of('of them go otherwise', count($replay['changed']), 'statements');
        yield BenchFigure::of('executions', $replay['executions'], 'executions');
        yield BenchFigure::atMost('replay of the executions', $seconds, 20, 's');
    }

    /**
     * @return list<AskedQuery>
     */
    private function asked(): array
    {
        $random = new Randomizer(new Mt19937(7));
        $statements = [];
        for ($i = 0; $i < self::STATEMENTS; $i++) {
            [$s, $t, $u] = [$random->getInt(0, 39), $random->getInt(0, 49), $random->getInt(0, 49)];
            $statements[] = [
                "SELECT c1, c2, count(*) FROM s{$s}.t{$t} WHERE c3 = 'x' GROUP BY c1, c2",
                "SELECT a.c1, b.c4 FROM s{$s}.t{$t} AS a JOIN s{$s}.t{$u} AS b ON a.c0 = b.c0 WHERE a.c5 LIKE 'k%'",
                "WITH q AS (SELECT c0, max(c7) AS most FROM s{$s}.t{$t} GROUP BY c0) SELECT * FROM q ORDER BY most LIMIT 10",
            ][$i % 3];
        }
        $times = [];
        for ($i = 0; $i < self::EXECUTIONS; $i++) {
            $key = $random->getInt(0, self::STATEMENTS - 1).' '.$random->getInt(0, 39) * 50;
            $times[$key] = ($times[$key] ?? 0) + 1;
        }
        $asked = [];
        foreach ($times as $key => $count) {
            [$statement, $person] = explode(' ', $key);
            $asked[] = new AskedQuery($statement, $statements[(int) $statement], 'big', '', "person:p{$person}", $count);
        }

        return $asked;
    }
}
