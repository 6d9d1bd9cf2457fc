<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans\Rules;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanRule;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Plans\TableFacts;
use Fulcrion\Core\Sql\Ast\Binary;
use Fulcrion\Core\Sql\Ast\Call;
use Fulcrion\Core\Sql\Ast\Cast;
use Fulcrion\Core\Sql\Ast\ColumnName;
use Fulcrion\Core\Sql\Ast\Expression;
use Fulcrion\Core\Sql\Ast\Extract;
use Fulcrion\Core\Sql\Ast\InList;
use Fulcrion\Core\Sql\Ast\NumberLiteral;
use Fulcrion\Core\Sql\Ast\TextLiteral;
use Fulcrion\Core\Sql\Ast\TimeLiteral;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Text\Quantity;

/**
 * A filter hides the partition or clustering column inside a function or cast, so nothing can be skipped by it.
 */
final readonly class WrappedColumn implements PlanRule
{
    private const TURNED = ['=' => '=', '<' => '>', '>' => '<', '<=' => '>=', '>=' => '<='];

    public function check(Plan $plan): array
    {
        $findings = [];
        $parser = new Parser();
        foreach ($plan->steps() as $step) {
            $table = $step->table;
            if ($step->kind !== StepKind::Scan || $table === null || ($step->chunksTotal ?? 2) < 2) {
                continue;
            }
            foreach ($step->conditions as $text) {
                try {
                    $condition = $parser->expression($text);
                } catch (SyntaxError) {
                    continue;
                }
                $wrapped = $this->wrapped($condition, $table);
                if ($wrapped === null) {
                    continue;
                }
                [$column, $role] = $wrapped;
                $replacement = $this->rewritten($condition, $column, $table->types[$column] ?? '');
                $read = $role === 'partition' && $step->partitionsTotal !== null
                    ? Quantity::count((int) $step->partitionsRead).' of '.Quantity::count($step->partitionsTotal).' partitions'
                    : ($step->chunksTotal === null ? 'all of the table' : Quantity::count((int) $step->chunksRead).' of '.Quantity::count($step->chunksTotal).' chunks');
                $findings[] = new PlanFinding(
                    'wrapped-column',
                    "A filter wraps the {$role} column {$column} of {$table->name} in an expression",
                    "{$text} tells nothing about {$column} itself".($step->actualRows === null ? '' : ": {$read} were read"),
                    $replacement === null ? "Compare {$column} itself with constants." : 'Compare the column itself with the bounds of what is wanted.',
                    $step,
                    $replacement,
                    $step->ownUs,
                );
            }
        }

        return $findings;
    }

    /**
     * @return array{string, string}|null column, role
     */
    private function wrapped(Expression $condition, TableFacts $table): ?array
    {
        $sides = match (true) {
            $condition instanceof Binary && (isset(self::TURNED[$condition->operator]) || $condition->operator === '<>') => [$condition->left, $condition->right],
            $condition instanceof InList => [$condition->value],
            default => [],
        };
        foreach ($sides as $side) {
            if ($side instanceof ColumnName) {
                continue;
            }
            foreach (['partition' => $table->partitionColumn, 'clustering' => $table->clustering[0] ?? null] as $role => $column) {
                if ($column !== null && Mentions::column($side, $column)) {
                    return [$column, $role];
                }
            }
        }

        return null;
    }

    /** The same filter on the bare column, where it can be said as a span. */
    private function rewritten(Expression $condition, string $column, string $type): ?string
    {
        if (! $condition instanceof Binary) {
            return null;
        }
        [$wrapping, $constant, $operator] = Mentions::column($condition->left, $column)
            ? [$condition->left, $condition->right, $condition->operator]
            : [$condition->right, $condition->left, self::TURNED[$condition->operator] ?? ''];
        $span = $this->span($wrapping, $constant);
        if ($span === null) {
            return null;
        }
        [$from, $to] = $span;
        $literal = static fn (int $day): string => ($type === 'date' ? 'DATE ' : 'TIMESTAMP ')."'".gmdate($type === 'date' ? 'Y-m-d' : 'Y-m-d 00:00:00', $day * 86400)."'";
        $name = (new Printer())->name($column);

        return match ($operator) {
            '=' => "{$name} >= {$literal($from)} AND {$name} < {$literal($to)}",
            '<' => "{$name} < {$literal($from)}",
            '<=' => "{$name} < {$literal($to)}",
            '>' => "{$name} >= {$literal($to)}",
            '>=' => "{$name} >= {$literal($from)}",
            default => null,
        };
    }

    /**
     * The days for which the wrapping expression has the constant's value.
     *
     * @return array{int, int}|null first day, day behind the last
     */
    private function span(Expression $wrapping, Expression $constant): ?array
    {
        $unit = match (true) {
            $wrapping instanceof Cast && $wrapping->type->name === 'date' => 'day',
            $wrapping instanceof Call && $wrapping->name === 'date' => 'day',
            $wrapping instanceof Call && $wrapping->name === 'date_trunc' && $wrapping->arguments[0] instanceof TextLiteral => $wrapping->arguments[0]->value,
            $wrapping instanceof Extract && $wrapping->unit === 'YEAR', $wrapping instanceof Call && $wrapping->name === 'year' => 'number of the year',
            default => null,
        };
        $inner = $wrapping instanceof Call ? ($wrapping->arguments[count($wrapping->arguments) - 1] ?? null) : ($wrapping instanceof Cast || $wrapping instanceof Extract ? $wrapping->value : null);
        if ($unit === null || ! $inner instanceof ColumnName) {
            return null;
        }
        if ($unit === 'number of the year') {
            return $constant instanceof NumberLiteral && ctype_digit($constant->text) ? [self::day("{$constant->text}-01-01"), self::day(((int) $constant->text + 1).'-01-01')] : null;
        }
        $text = $constant instanceof TimeLiteral ? $constant->text : ($constant instanceof TextLiteral ? $constant->value : '');
        if (preg_match('~^\d{4}-\d{2}-\d{2}(?: 00:00:00)?$~', $text) !== 1 || ! in_array($unit, ['day', 'week', 'month', 'quarter', 'year'], true)) {
            return null;
        }
        $from = self::day(substr($text, 0, 10));
        $next = (int) strtotime(gmdate('Y-m-d', $from * 86400).' UTC +'.($unit === 'quarter' ? '3 months' : "1 {$unit}"));

        return [$from, intdiv($next, 86400)];
    }

    private static function day(string $date): int
    {
        return intdiv((int) strtotime("{$date} 00:00:00 UTC"), 86400);
    }
}
