<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Tools\Worlds\LargePolicy;

/**
 * Decisions on single columns under a large policy.
 */
final class AccessDecideBench implements Measurement
{
    private const READERS = 100;

    public function name(): string
    {
        return 'access-decide';
    }

    public function run(Closure $say): iterable
    {
        $say('making 200 roles, 500 rules, 20 000 columns');
        $large = new LargePolicy();
        $before = memory_get_usage();
        memory_reset_peak_usage();
        $began = hrtime(true);
        $policy = $large->policy();
        yield BenchFigure::of('making the policy ready', (hrtime(true) - $began) / 1e6, 'ms');
        $say('deciding');
        $decisions = 0;
        $seen = [];
        $began = hrtime(true);
        for ($i = 0; $i < self::READERS; $i++) {
            $reader = $policy->reader('person:p'.($i * 19) % LargePolicy::PEOPLE);
            foreach ($policy->catalog->tables as $table) {
                foreach ($reader->glance($table)->columns as $access) {
                    $decisions++;
                    $seen[$access->sight->value] = ($seen[$access->sight->value] ?? 0) + 1;
                }
            }
        }
        $seconds = (hrtime(true) - $began) / 1e9;
        foreach ($seen as $sight => $count) {
            yield BenchFigure::of("columns {$sight}", $count, 'columns');
        }
        yield BenchFigure::of('decisions', $decisions, 'columns');
        yield BenchFigure::atLeast('column decisions a second', $decisions / $seconds, 200_000, 'columns');
        yield BenchFigure::atMost('memory beside the policy itself', (memory_get_peak_usage() - $before) / 1_048_576, 256, 'MiB');
    }
}
