<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Text\Quantity;

/**
 * Long keys make hash tables, exchanges and bounds large.
 */
final readonly class WideKey implements HouseRule
{
    public function id(): string
    {
        return 'wide-key';
    }

    public function title(): string
    {
        return 'Wide text in a key';
    }

    public function reason(): string
    {
        return 'Long keys make hash tables, exchanges and bounds large.';
    }

    public function guidance(): array
    {
        return [
            'Columns rows are distributed, clustered or joined by are hashed, compared and sent more than any other. Text of many bytes '
                .'costs there what a number does not.',
            'Give such keys a number, and keep the text once beside it in a small table.',
        ];
    }

    public function thresholds(): array
    {
        return ['bytes' => [24, 'bytes a value on average'], 'rows' => [20000, 'stored rows below which it does not matter']];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $table = $case->table;
        if ($case->sample === null || $table->rows() < $thresholds['rows']) {
            return [];
        }
        $keys = [...$table->definition->distribution->columns, ...$table->definition->clustering];
        foreach ($case->estate->workload->columns($table->name) as $name => $uses) {
            $keys = $uses['join'] > 0 ? [...$keys, $name] : $keys;
        }
        $evidence = [];
        foreach (array_unique($keys) as $name) {
            $texts = array_filter($case->sample->column($name), is_string(...));
            $mean = $texts === [] ? 0.0 : array_sum(array_map(strlen(...), $texts)) / count($texts);
            if ($mean >= $thresholds['bytes']) {
                $evidence[] = [$name, Quantity::digits($mean).' bytes on average'];
            }
        }

        return $evidence === []
            ? []
            : [new LayoutFinding($this->id(), $table->name, false, "Keys of {$table->name} are wide texts", $evidence)];
    }
}
