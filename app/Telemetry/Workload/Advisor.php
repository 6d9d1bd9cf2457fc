<?php

declare(strict_types=1);

namespace App\Telemetry\Workload;

use App\Estate\Connectors\LayoutSource;
use Fulcrion\Core\Storage\Advice;
use Fulcrion\Core\Storage\DistributionAdvisor;
use Fulcrion\Core\Storage\Estate;
use Fulcrion\Core\Storage\FullAdvice;
use Fulcrion\Core\Storage\TableLayout;

/**
 * All advice on a table, with what has to be read of it.
 */
final readonly class Advisor
{
    public const SAMPLE = 16_000;

    /**
     * @return list<Advice>
     */
    public function all(LayoutSource $source, Estate $estate, TableLayout $table): array
    {
        $spreads = array_map(
            fn (string $column) => $source->spread($table->name, $column),
            (new DistributionAdvisor($estate))->columns($table),
        );

        return (new FullAdvice($estate))->of($table, $source->sample($table->name, self::SAMPLE), $spreads);
    }

    public function one(LayoutSource $source, Estate $estate, TableLayout $table, string $kind): ?Advice
    {
        foreach ($this->all($source, $estate, $table) as $advice) {
            if ($advice->kind === $kind) {
                return $advice;
            }
        }

        return null;
    }
}
