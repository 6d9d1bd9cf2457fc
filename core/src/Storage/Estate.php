<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * The tables of a cluster and what is asked of them.
 */
final class Estate
{
    /** @var array<string, ReadModel> */
    private array $models = [];

    private ?LayoutModel $layoutModel = null;

    /**
     * @param  array<string, TableLayout>  $tables by name
     * @param  array<string, array{factor: float, statement: string}>  $misestimates worst wrong estimate of rows read from a table,
     *     in plans that ran
     */
    public function __construct(
        public readonly array $tables,
        public readonly Workload $workload,
        public readonly ClusterRates $rates,
        public readonly int $nowUs,
        public readonly array $misestimates = [],
    ) {
    }

    /** One for a table and a sample, since it remembers what it has worked out. */
    public function model(TableLayout $table, Sample $sample): LayoutModel
    {
        if ($this->layoutModel?->table !== $table || $this->layoutModel->sample !== $sample) {
            $this->layoutModel = new LayoutModel($this, $table, $sample);
        }

        return $this->layoutModel;
    }

    public function reads(TableLayout $table): ReadModel
    {
        $known = $this->models[$table->name] ?? null;

        return $known !== null && $known->table === $table ? $known : ($this->models[$table->name] = new ReadModel($table, $this->rates));
    }
}
