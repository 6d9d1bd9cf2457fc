<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Storage\Rules\CopiedLarge;
use Fulcrion\Core\Storage\Rules\ExpiredVersions;
use Fulcrion\Core\Storage\Rules\HiddenColumn;
use Fulcrion\Core\Storage\Rules\JoinedToFilter;
use Fulcrion\Core\Storage\Rules\JoinTypes;
use Fulcrion\Core\Storage\Rules\MissingStatistics;
use Fulcrion\Core\Storage\Rules\NullableJoinKey;
use Fulcrion\Core\Storage\Rules\OrphanFiles;
use Fulcrion\Core\Storage\Rules\PoorOrder;
use Fulcrion\Core\Storage\Rules\RepeatedGroups;
use Fulcrion\Core\Storage\Rules\Skew;
use Fulcrion\Core\Storage\Rules\StaleStatistics;
use Fulcrion\Core\Storage\Rules\TinyChunks;
use Fulcrion\Core\Storage\Rules\TooManyPartitions;
use Fulcrion\Core\Storage\Rules\UnusedColumns;
use Fulcrion\Core\Storage\Rules\UnusedTable;
use Fulcrion\Core\Storage\Rules\WideKey;

/**
 * All house rules on a table.
 */
final readonly class HouseRules
{
    /**
     * @return array<string, HouseRule> by id
     */
    public static function all(): array
    {
        $rules = [
            new CopiedLarge(),
            new Skew(),
            new PoorOrder(),
            new TinyChunks(),
            new TooManyPartitions(),
            new HiddenColumn(),
            new MissingStatistics(),
            new StaleStatistics(),
            new JoinTypes(),
            new NullableJoinKey(),
            new WideKey(),
            new UnusedTable(),
            new UnusedColumns(),
            new ExpiredVersions(),
            new OrphanFiles(),
            new RepeatedGroups(),
            new JoinedToFilter(),
        ];

        return array_combine(array_map(static fn (HouseRule $rule): string => $rule->id(), $rules), $rules);
    }

    /**
     * @param  array<string, array<string, float>>  $thresholds rule => name => value, where it differs from the default
     * @param  list<string>  $off rules not to be checked
     * @return list<LayoutFinding> most weight first
     */
    public static function check(TableCase $case, array $thresholds = [], array $off = []): array
    {
        $findings = [];
        foreach (self::all() as $id => $rule) {
            if (! in_array($id, $off, true)) {
                $values = array_map(static fn (array $threshold): float => $threshold[0], $rule->thresholds());
                array_push($findings, ...$rule->check($case, array_intersect_key($thresholds[$id] ?? [], $values) + $values));
            }
        }
        usort(
            $findings,
            static fn (LayoutFinding $a, LayoutFinding $b): int => [$b->weightUs, $b->weightBytes] <=> [$a->weightUs, $a->weightBytes],
        );

        return $findings;
    }
}
