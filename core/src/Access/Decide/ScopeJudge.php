<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Catalog\AllowedValues;
use Fulcrion\Core\Access\Policy\ConditionError;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Printer;

/**
 * Which rows of a table are left to a reader by filters and value scopes, and whether a statement asks for more.
 *
 * @internal
 */
final readonly class ScopeJudge
{
    public function __construct(private Policy $policy, private Ruling $ruling, private Printer $printer)
    {
    }

    /** The condition rows of a read must meet; null for all. Refuses what asks for more than it may. */
    public function rows(TableRead $read): ?Ast\Expression
    {
        if ($read->access->isClosed()) {
            return null;
        }
        $conditions = [];
        $table = $read->access->table;
        $readers = $read->owner === null ? [$this->ruling->reader] : [$this->ruling->reader, $read->owner];
        foreach ($readers as $reader) {
            $filters = match (true) {
                $read->owner === null => $read->access->filters,
                $reader === $read->owner => $reader->table($table)->filters,
                default => $reader->tableByRules($table)->filters,
            };
            foreach ($filters as $rule => $filter) {
                try {
                    $condition = $filter->forReader($reader->attributes);
                } catch (ConditionError $error) {
                    $cause = new Cause(Cause::RULE_ERROR, (string) $rule, $read->path, $error->getMessage());
                    $this->ruling->refuse(
                        new Refusal(Refusal::CLOSED, $read->path, "Rule {$rule} is in error: ".$error->getMessage(), [$cause]),
                    );

                    continue;
                }
                $shown = $this->printer->expression($condition);
                $read->left["rule {$rule}"] = $shown;
                $this->ruling->note("{$read->path} rule {$rule} {$shown}", "Rule {$rule} leaves of {$read->path} the rows where {$shown}.");
                $conditions[] = $condition;
            }
        }
        foreach ($this->policy->carriers($table) as $carrier) {
            foreach ($readers as $reader) {
                $condition = $this->carried($read, $carrier, $reader);
                if ($condition !== null) {
                    $conditions[] = $condition;
                }
            }
        }
        $all = null;
        foreach ($conditions as $one) {
            $all = $all === null ? $one : new Ast\Binary(0, 'AND', $all, $one);
        }

        return $all;
    }

    private function carried(TableRead $read, Carrier $carrier, Reader $reader): ?Ast\Expression
    {
        $detail = $reader->allowed($carrier->dimension, $carrier->by, false);
        $totals = $reader->allowed($carrier->dimension, $carrier->by, true);
        $isTotal = $carrier->column === null ? $read->aggregated && $read->shows === null : $read->addsUpOver($carrier->column);
        if ($isTotal && ! $detail->everything && ! $totals->same($detail)) {
            $read->grouped = true;
        }
        $allowed = $isTotal ? $totals : $detail;
        if ($allowed->everything) {
            if ($isTotal && ! $detail->everything) {
                $read->totals[] = $carrier->dimension;
            }

            return null;
        }
        $type = $carrier->column === null ? null : $read->access->table->columns[$carrier->column];
        if ($carrier->column === null || $type === null) {
            return $this->untold($read, $carrier, $reader, $allowed, $totals);
        }
        $refuses = $reader->mode($carrier->dimension) === 'refuse';
        if ($refuses) {
            $this->refuseMore($read, $carrier->dimension, $carrier->column, $type, $reader, $allowed, $totals, $isTotal);
        }
        $condition = $allowed->predicate($carrier->column, $type);
        if (! $refuses) {
            // With refusal all that is asked for is allowed, and the condition only stands guard.
            $shown = $this->printer->expression($condition);
            $read->left["value scope {$carrier->dimension}"] = $shown;
            $this->ruling->note(
                "{$read->path} scope {$carrier->dimension} {$carrier->column}",
                "The value scope {$carrier->dimension} leaves of {$read->path} the rows where {$shown}.",
            );
        }

        return $condition;
    }

    /** Rows of a dimension, and no column that tells which. */
    private function untold(TableRead $read, Carrier $carrier, Reader $reader, AllowedValues $allowed, AllowedValues $totals): null
    {
        $who = Subject::show($reader->subject);
        $this->ruling->refuse(
            new Refusal(
                $totals->everything ? Refusal::LEVEL : Refusal::VALUE,
                $read->path,
                "{$read->path} holds rows of {$carrier->dimension} and no column that tells of which value; {$who} may see ".
                    ($totals->everything ? 'it in totals only' : $allowed->show()).
                    '.',
                [],
                $totals->everything ? 'totals' : 'detail',
                $carrier->dimension,
                [],
                $reader === $this->ruling->reader ? '' : $reader->subject,
            ),
        );

        return null;
    }

    private function refuseMore(
        TableRead $read,
        string $dimension,
        string $column,
        ColumnType $type,
        Reader $reader,
        AllowedValues $allowed,
        AllowedValues $totals,
        bool $isTotal,
    ): void {
        $object = ObjectPath::child($read->path, $column);
        $whose = $reader === $this->ruling->reader ? '' : $reader->subject;
        $who = Subject::show($reader->subject);
        $known = array_key_exists($column, $read->asked);
        $asked = $read->asked[$column] ?? null;
        if ($asked === null) {
            $level = ! $isTotal && $totals->everything;
            $why = $level && $read->aggregated && $read->shows !== null && ! isset($read->uses[$column]) ? " ({$read->shows})" : '';
            $message = match (true) {
                $level => "{$who} may see {$dimension} of {$read->path} in totals only{$why}: group and add up without "
                    ."naming {$column}, or ask for ".
                    $allowed->show().
                    ' in detail.',
                $known => "Which values of {$dimension} ({$object}) are asked for depends on values that are not known.",
                default => "This asks for all values of {$dimension} ({$object})".
                    ($isTotal ? ' in a total' : '').
                    "; {$who} may see ".
                    $allowed->show().
                    '.',
            };
            $this->ruling->refuse(
                new Refusal(
                    $level || $isTotal ? Refusal::LEVEL : Refusal::VALUE,
                    $object,
                    $message,
                    [],
                    $isTotal ? 'totals' : 'detail',
                    $dimension,
                    [],
                    $whose,
                    $known,
                ),
            );

            return;
        }
        $missing = [];
        foreach ($asked as [$low, $high]) {
            if ($high === null ? ! $allowed->has($low, $type) : ! $allowed->hasRange($low, $high, $type)) {
                $missing[] = $high === null ? $low : "{$low}..{$high}";
            }
        }
        if ($missing !== []) {
            $message = "{$who} may not see ".implode(', ', $missing)." of {$dimension} ({$object}); allowed: ".$allowed->show().'.';
            $this->ruling->refuse(new Refusal(Refusal::VALUE, $object, $message, [], '', $dimension, $missing, $whose));
        }
    }
}
