<?php

declare(strict_types=1);

namespace App\Usage\Application;

use App\Platform\Figures\Figure;
use App\Telemetry\Usage\Amount;
use App\Telemetry\Usage\UsageAxis;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use App\Usage\Charts\ColumnsFigure;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;

/**
 * Any measure by any two fields.
 */
final readonly class ExplorePage
{
    /**
     * @param  array<string, string>  $texts of statements on the rows or columns
     */
    private function __construct(
        public UsageScope $scope,
        public UsageAxis $rows,
        public UsageAxis $columns,
        public UsageGrid $grid,
        public array $texts,
        public ?Figure $figure,
        /** @var array<string, int> all executions by row, where only long ones are counted */
        public array $ofAll,
    ) {
    }

    public static function of(
        UsageScope $scope,
        UsageAxis $rows,
        UsageAxis $columns,
        UsageReader $reader,
    ): self {
        [$cells, $others] = $scope->longerThanUs !== null ? [
            app(LongExecutions::class)->grid($rows, $columns, $scope, $scope->longerThanUs), 0,
        ]
            : $reader->grid($rows, $columns, $scope, [UsageGrid::ROWS, UsageGrid::COLUMNS], UsageGrid::OTHER);
        $grid = UsageGrid::of($cells, $rows->isTime(), $columns->isTime(), $others);
        $fingerprints = [
            ...$rows->field === UsageField::Statement ? $grid->rows : [],
            ...$columns->field === UsageField::Statement ? $grid->columns : [],
        ];
        $texts = $fingerprints === [] ? [] : $reader->texts($fingerprints);
        $ofAll = $scope->longerThanUs === null ? [] : $reader->sumsBy($rows, $scope);
        $page = new self($scope, $rows, $columns, $grid, $texts, null, $ofAll);

        return new self($scope, $rows, $columns, $grid, $texts, $grid->rows === [] ? null : ColumnsFigure::draw($page), $ofAll);
    }

    /** What is counted, in words. */
    public function what(): string
    {
        return $this->scope->longerThanUs === null ? $this->scope->measure->label()
            : 'executions longer than '.Quantity::duration((float) $this->scope->longerThanUs);
    }

    /** The share of long executions among all of a row; empty where all are counted. */
    public function share(string $row): string
    {
        if ($this->scope->longerThanUs === null) {
            return '';
        }
        $all = $row === UsageGrid::OTHER ? array_sum(array_diff_key($this->ofAll, array_fill_keys($this->grid->rows, true)))
            : $this->ofAll[$row] ?? 0;

        return $all <= 0 ? '' : Quantity::percent(($this->grid->rowTotals[$row] ?? 0) / $all);
    }

    public function shareOfAll(): string
    {
        $all = array_sum($this->ofAll);

        return $this->scope->longerThanUs === null || $all <= 0 ? '' : Quantity::percent($this->grid->total / $all);
    }

    public function sentence(): string
    {
        $measure = $this->scope->measure;
        $days = $this->scope->days->describe();
        if ($this->grid->total === 0) {
            return 'No '.$this->what().' from '.$days.' that match';
        }
        $by = $this->rows->isTime() ? $this->columns : $this->rows;
        $totals = $this->rows->isTime() ? $this->grid->columnTotals : $this->grid->rowTotals;
        // The others stand together only because each of them is less.
        unset($totals[UsageGrid::OTHER]);
        arsort($totals);
        $first = (string) array_key_first($totals);

        return ucfirst($this->what()).', '.$days.': '.Amount::of($measure, $this->grid->total).
            ($this->shareOfAll() === '' ? '' : ", {$this->shareOfAll()} of all").
            ($by->isTime() || $totals === [] ? '' : '; '.mb_strimwidth($this->name($by, $first), 0, 70, '…').
                ' has the largest part, '.Amount::of($measure, $totals[$first]));
    }

    public function name(UsageAxis $axis, string $value): string
    {
        if ($value === UsageGrid::OTHER) {
            return 'other';
        }
        $text = $axis->field === UsageField::Statement ? $this->texts[$value] ?? null : null;

        return $text === null ? $axis->name($value) : substr($value, 0, 8).': '.trim((string) preg_replace('~\s+~', ' ', $text));
    }

    /** The statements behind a cell, a row or a column; null where several values stand together. */
    public function behind(?string $row, ?string $column): ?string
    {
        $query = $this->scope->query();
        foreach ([[$this->rows, $row], [$this->columns, $column]] as [$axis, $value]) {
            if ($value === UsageGrid::OTHER) {
                return null;
            }
            if ($value === null) {
                continue;
            }
            if ($axis->field === UsageField::Statement) {
                return address('statement.show', $value).'?window=last+28+days';
            }
            if ($axis->key === 'daytime') {
                // An hour of all days is no span of days.
                return null;
            }
            if ($axis->field === null) {
                $query['days'] = self::days($axis, $value);
            } else {
                $query[$axis->key] = $axis->name($value);
            }
        }

        return address('usage.explore').'?'.http_build_query(['rows' => 'statement', 'columns' => $this->deeperColumns()] + $query);
    }

    private function deeperColumns(): string
    {
        return $this->columns->field === UsageField::Statement || $this->columns->isTime() ? 'day' : $this->columns->key;
    }

    private static function days(UsageAxis $axis, string $value): string
    {
        return match ($axis->key) {
            'month' => $value,
            'week' => (new Days((int) $value, (int) $value + Days::WEEK))->text(),
            'hour' => gmdate('Y-m-d', app(Calendar::class)->day((int) $value)),
            default => gmdate('Y-m-d', (int) $value),
        };
    }

    /**
     * @param  array<string, string|null>  $other
     */
    public function address(array $other = []): string
    {
        return address('usage.explore').'?'.http_build_query($this->scope->query($other + [
            'rows' => $this->rows->key, 'columns' => $this->columns->key,
        ]));
    }

    /**
     * All of it, for programs.
     *
     * @return iterable<array<string, int|string>>
     */
    public function table(): iterable
    {
        foreach ($this->grid->rows as $row) {
            $line = [$this->rows->label() => $this->name($this->rows, $row)];
            foreach ($this->grid->columns as $column) {
                $line[$this->name($this->columns, $column)] = $this->grid->cell($row, $column);
            }
            yield $line + ['total' => $this->grid->rowTotals[$row] ?? 0];
        }
    }
}
