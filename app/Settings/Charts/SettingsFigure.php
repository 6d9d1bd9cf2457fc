<?php

declare(strict_types=1);

namespace App\Settings\Charts;

use App\Platform\Figures\Figure;
use App\Platform\Figures\Svg;
use Fulcrion\Core\Settings\SettingRow;
use Fulcrion\Core\Settings\SettingState;
use Fulcrion\Core\Settings\SettingTable;

/**
 * Hosts across, settings down, only those in which somebody differs: a dot as desired, a lozenge not, with its value; all others are
 * one line with their number.
 */
final readonly class SettingsFigure
{
    /** Hosts that have a place of their own; of more, those that differ and one place for all others. */
    private const MOST_HOSTS = 16;

    private const MOST_ROWS = 40;

    public static function draw(SettingTable $table): Figure
    {
        $odd = array_values(array_filter($table->rows, static fn (SettingRow $row): bool => $row->differs()));
        $hosts = self::hosts($table, $odd);
        $others = count($table->hosts) - count($hosts);
        // On a narrow screen hosts that differ in nothing have no place.
        $calm = array_map(static fn (string $host): bool => ! self::isOdd($odd, $host), $hosts);
        $cells = self::line('head', '', [...array_map(Svg::escape(...), $hosts), ...($others > 0 ? ["{$others} others"] : [])], $calm);
        foreach (array_slice($odd, 0, self::MOST_ROWS) as $row) {
            $name = '<span class="mono">'.Svg::escape($row->name).'</span>';
            $wish = $row->desired === null ? '' : '<span class="quiet small">'.Svg::escape($row->desired->said()).'</span>';
            $cells .= self::line('', $name.$wish, [
                ...array_map(static fn (string $host): string => self::cell($row, $host), $hosts),
                ...($others > 0 ? ['<span class="quiet small">alike</span>'] : []),
            ], $calm);
        }
        $folded = self::folded(count($table->rows) - count($odd), count($table->hosts), $odd === []);
        $html = "<div class=\"settings-figure\">{$cells}</div><p class=\"quiet small\">{$folded}</p>";

        return new Figure($html, self::summary($odd, $folded),
            'Each value as the host, its server or the practice cluster told it last. A dot is as desired by the profile, a lozenge is '
            .'not; a hollow lozenge is unlike at least three quarters of the others where nothing is desired.',
            ['setting', 'host', 'value', 'desired', 'state'], self::rows($odd));
    }

    /**
     * @param  list<string>  $cells
     * @param  list<bool>  $calm whether the host of each of them differs in nothing
     */
    private static function line(string $class, string $name, array $cells, array $calm): string
    {
        return "<div class=\"settings-line {$class}\"><div class=\"name\">{$name}</div>".implode('', array_map(
            static fn (string $cell, bool $isCalm): string => '<div class="cell'.($isCalm ? ' at-ease' : '').'">'.$cell.'</div>',
            $cells,
            array_pad($calm, count($cells), false),
        )).'</div>';
    }

    /**
     * @param  list<SettingRow>  $odd
     * @return list<string>
     */
    private static function hosts(SettingTable $table, array $odd): array
    {
        if (count($table->hosts) <= self::MOST_HOSTS) {
            return $table->hosts;
        }
        $differ = array_filter($table->hosts, static fn (string $host): bool => self::isOdd($odd, $host));

        return array_slice(array_values($differ), 0, self::MOST_HOSTS);
    }

    /**
     * @param  list<SettingRow>  $odd
     */
    private static function isOdd(array $odd, string $host): bool
    {
        foreach ($odd as $row) {
            if (self::isOff($row->states[$host] ?? null)) {
                return true;
            }
        }

        return false;
    }

    private static function isOff(?SettingState $state): bool
    {
        return $state === SettingState::Differs || $state === SettingState::Odd || $state === SettingState::Unread;
    }

    private static function cell(SettingRow $row, string $host): string
    {
        $state = $row->states[$host] ?? null;
        if ($state === null) {
            return '';
        }
        $value = $row->values[$host] ?? null;
        $title = Svg::escape("{$host}: {$row->name} ".($value === null ? 'cannot be read' : "is {$value}, {$state->value}"));
        $shape = match ($state) {
            SettingState::Differs => '<path class="act" d="M8 1.5 14.5 8 8 14.5 1.5 8Z"/>',
            SettingState::Odd => '<path class="odd" d="M8 1.5 14.5 8 8 14.5 1.5 8Z"/>',
            SettingState::Unread => '<circle class="none" cx="8" cy="8" r="4"/><path class="none" d="M3 13 13 3"/>',
            default => '<circle class="calm" cx="8" cy="8" r="3"/>',
        };
        $class = $state === SettingState::Differs ? 'mono small off' : 'mono small';
        $said = self::isOff($state) ? "<span class=\"{$class}\">".Svg::escape(mb_strimwidth($value ?? '?', 0, 24, '…')).'</span>' : '';

        return '<svg class="figure-svg" viewBox="0 0 16 16" width="16" height="16" role="img" '
            ."aria-label=\"{$title}\"><title>{$title}</title>{$shape}</svg>{$said}";
    }

    private static function folded(int $alike, int $hosts, bool $isAll): string
    {
        $count = $alike === 1 ? '1 '.($isAll ? '' : 'other ').'setting is' : "{$alike} ".($isAll ? '' : 'other ').'settings are';

        return $alike === 0 ? 'No other setting is read.' : "{$count} ".($hosts === 1 ? 'as desired, or not held against anything.'
            : "as desired, or the same on all {$hosts} hosts.");
    }

    /**
     * @param  list<SettingRow>  $odd
     */
    private static function summary(array $odd, string $folded): string
    {
        return implode(' ', [...array_map(static function (SettingRow $row): string {
            $off = array_filter($row->states, self::isOff(...));

            return "{$row->name}: ".implode(', ', array_map(static fn (string $host): string => "{$host} ".($row->values[$host] ?? '?'),
                array_slice(array_map(strval(...), array_keys($off)), 0, 6))).'.';
        }, array_slice($odd, 0, 6)), $folded]);
    }

    /**
     * @param  list<SettingRow>  $odd
     * @return list<list<string>>
     */
    private static function rows(array $odd): array
    {
        $rows = [];
        foreach ($odd as $row) {
            foreach ($row->states as $host => $state) {
                $rows[] = [$row->name, (string) $host, $row->values[$host] ?? 'not known', $row->desired?->said() ?? 'anything',
                    $state->value];
            }
        }

        return $rows;
    }
}
