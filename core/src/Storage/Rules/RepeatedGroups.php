<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\Rollups\RollupAdvisor;
use Fulcrion\Core\Storage\Rollups\RollupProposal;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Text\Quantity;

/**
 * The same groups summed again and again could be kept.
 */
final readonly class RepeatedGroups implements HouseRule
{
    /** Rollups one finding proposes at most; the page of rollups shows all. */
    public const MOST = 3;

    public function id(): string
    {
        return 'repeated-groups';
    }

    public function title(): string
    {
        return 'The same groups are summed again and again';
    }

    public function reason(): string
    {
        return 'Statements that group a table by the same columns read all its rows each time, for sums that could be kept.';
    }

    public function guidance(): array
    {
        return [
            'A rollup holds the sums, counts and extremes of groups. The planner answers every statement from it that groups by the '
                .'same columns or by coarser ones, filters by them, or joins further tables to them; nobody has to write a statement '
                .'differently, and the answer is the same.',
            'It costs space and maintenance: rows that come have to be folded in. Which rollups pay is computed from the history: what '
                .'each '
                .'statement would save, how often it runs, how many rows the groups have.',
            'An exact distinct count cannot be put together from groups. approx_count_distinct can, within about 1.6%.',
        ];
    }

    public function thresholds(): array
    {
        return [
            'executions' => [100, 'executions a week of statements one rollup answers'],
            'hours' => [0.01, 'modelled hours a week it saves'],
            'space' => [0.25, 'share of the bytes of the table all its rollups may take'],
        ];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $advice = (new RollupAdvisor($case->estate))->of(
            $case->table,
            $case->sample,
            $thresholds['space'] * $case->table->bytes(),
            INF,
            $thresholds['hours'] * 3.6e9,
        );
        $proposals = array_values(
            array_filter($advice->proposals(), static fn (RollupProposal $p): bool => $p->executions() >= $thresholds['executions']),
        );
        usort($proposals, static fn (RollupProposal $a, RollupProposal $b): int => $b->savedUs <=> $a->savedUs);
        $proposals = array_slice($proposals, 0, self::MOST);
        if ($proposals === []) {
            return [];
        }
        $executions = array_sum(array_map(static fn (RollupProposal $p): float => $p->executions(), $proposals));
        $bytes = array_sum(array_map(static fn (RollupProposal $p): float => $p->candidate->bytes, $proposals)) * $case->table->rowFactor;
        $evidence = array_map(
            static fn (RollupProposal $p): array => [
                $p->name,
                count($p->served).
                ' statements, '.
                Quantity::count($p->executions()).
                ' executions a week, about '.
                Quantity::count($p->candidate->rows * $case->table->rowFactor).
                ' rows, '.
                Quantity::count(round($p->factor(), 1)).
                ' times less to read (modelled)',
            ],
            $proposals,
        );

        return [
            new LayoutFinding(
                $this->id(),
                $case->table->name,
                true,
                Quantity::count($executions).
                    " executions a week sum the same groups of {$case->table->name}; ".
                    (count($proposals) === 1 ? 'a rollup' : count($proposals).' rollups').
                    ' of about '.
                    Quantity::bytes($bytes).
                    ' would answer them',
                [
                    ...$evidence,
                    [
                        'maintenance',
                        Quantity::duration(array_sum(array_map(static fn (RollupProposal $p): float => $p->candidate->keepUs, $proposals))).
                        ' a week (modelled)',
                    ],
                ],
                array_sum(array_map(static fn (RollupProposal $p): float => $p->savedUs, $proposals)),
                0.0,
                'rollup',
                array_map(static fn (RollupProposal $p): string => $p->create(), $proposals),
                array_map(static fn (RollupProposal $p): string => $p->drop(), $proposals),
                self::byStatement($proposals),
            ),
        ];
    }

    /**
     * @param  list<RollupProposal>  $proposals
     * @return array<string, float>
     */
    private static function byStatement(array $proposals): array
    {
        $sums = [];
        foreach ($proposals as $proposal) {
            foreach ($proposal->savings() as $statement => $us) {
                $sums[$statement] = max($sums[$statement] ?? 0.0, $us);
            }
        }

        return $sums;
    }
}
