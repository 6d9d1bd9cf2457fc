<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Severity;
use App\Ledger\Models\Finding;
use Fulcrion\Core\Storage\HouseRules;
use Fulcrion\Core\Storage\TableOutline;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Http\Request;
use Illuminate\Support\Collection;

/**
 * All tables of a cluster as the page lists them.
 */
final readonly class LayoutList
{
    public const SORTS = [
        'weight' => 'weight',
        'name' => 'name',
        'rows' => 'rows',
        'bytes' => 'size',
        'chunks' => 'chunks',
        'skew' => 'skew',
        'small' => 'small chunks',
    ];

    public string $sort;

    public string $words;

    public string $rule;

    public bool $onlyFound;

    /** @var array<string, Collection<int, Finding>> by table */
    public array $findings;

    /**
     * @param  array<string, TableOutline>  $layouts
     * @param  Collection<int, Finding>  $waiting
     */
    public function __construct(public array $layouts, public Collection $waiting, Request $request)
    {
        $sort = $request->query('sort');
        $this->sort = is_string($sort) && isset(self::SORTS[$sort]) ? $sort : 'weight';
        $this->words = is_string($request->query('words')) ? mb_strtolower(mb_substr($request->query('words'), 0, 100)) : '';
        $rule = $request->query('rule');
        $this->rule = is_string($rule) && isset(HouseRules::all()[$rule]) ? $rule : '';
        $this->onlyFound = $request->query('only') === 'found';
        $this->findings = $waiting->groupBy(static fn (Finding $finding): string => $finding->subject()->table())->all();
    }

    /**
     * @return list<TableOutline>
     */
    public function tables(): array
    {
        $shown = array_values(
            array_filter(
                $this->layouts,
                fn (TableOutline $table): bool => ($this->words === '' || str_contains(mb_strtolower($table->name), $this->words)) &&
                    (! $this->onlyFound || isset($this->findings[$table->name])) &&
                    ($this->rule === '' || ($this->findings[$table->name] ?? collect())->contains('rule', $this->rule)),
            ),
        );
        usort(
            $shown,
            fn (TableOutline $a, TableOutline $b): int => match ($this->sort) {
                'name' => $a->name <=> $b->name,
                'rows' => $b->rows <=> $a->rows,
                'bytes' => $b->storedBytes <=> $a->storedBytes,
                'chunks' => $b->chunks <=> $a->chunks,
                'skew' => $b->skew() <=> $a->skew(),
                'small' => $b->smallShare() <=> $a->smallShare(),
                default => [$this->acts($b), $this->weight($b), $b->storedBytes] <=> [$this->acts($a), $this->weight($a), $a->storedBytes],
            },
        );

        return $shown;
    }

    public function weight(TableOutline $table): float
    {
        return (float) ($this->findings[$table->name] ?? collect())->sum(static fn (Finding $one): float => $one->queryUs());
    }

    public function acts(TableOutline $table): bool
    {
        return ($this->findings[$table->name] ?? collect())->contains('severity', Severity::Act);
    }

    /**
     * @return list<array{name: string, bytes: int, weightUs: float, findings: int, href: string}>
     */
    public function areas(string $slug): array
    {
        return array_map(
            fn (TableOutline $table): array => [
                'name' => $table->name,
                'bytes' => $table->storedBytes * $table->rowFactor,
                'weightUs' => $this->weight($table),
                'findings' => count($this->findings[$table->name] ?? []),
                'href' => address('layout.show', [$slug, $table->name]),
            ],
            array_values($this->layouts),
        );
    }

    /**
     * @return list<array{rule: string, findings: int, weightUs: float}> most weight first
     */
    public function kinds(): array
    {
        $kinds = $this->waiting
            ->groupBy('rule')
            ->map(
                static fn (Collection $group, string $rule): array => [
                    'rule' => $rule,
                    'findings' => $group->count(),
                    'weightUs' => (float) $group->sum(static fn (Finding $one): float => $one->queryUs()),
                ],
            )
            ->values()
            ->all();
        usort($kinds, static fn (array $a, array $b): int => [$b['weightUs'], $b['findings']] <=> [$a['weightUs'], $a['findings']]);

        return $kinds;
    }

    public function sentence(?Cluster $cluster): string
    {
        $with = count(array_intersect_key($this->findings, $this->layouts));
        $worst = $this->waiting->sortByDesc(static fn (Finding $one): float => $one->queryUs())->first();

        return match (true) {
            $cluster === null => 'No cluster is connected',
            $this->layouts === [] => "{$cluster->name} holds no table",
            $this->waiting->isEmpty() => 'All '.
                count($this->layouts).
                " tables of {$cluster->name} lie well, as far as the house rules can tell",
            default => "{$with} of ".
                count($this->layouts).
                " tables of {$cluster->name} could be laid out better, for ".
                Quantity::duration((float) $this->waiting->sum(static fn (Finding $one): float => $one->queryUs())).
                ' of modelled time a week; '.
                ($worst === null || $worst->queryUs() <= 0 ? 'none of them costs time' : "most of it on {$worst->subject()->table()}"),
        };
    }
}
