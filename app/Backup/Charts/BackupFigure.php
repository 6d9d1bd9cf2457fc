<?php

declare(strict_types=1);

namespace App\Backup\Charts;

use App\Platform\Figures\Figure;
use App\Platform\Figures\Svg;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Backup\Backup;
use Fulcrion\Core\Backup\BackupState;
use Fulcrion\Core\Backup\SchemaBackups;
use Fulcrion\Core\Text\Quantity;

/**
 * Schemas down, days across: what could be got back from the best backup of each day, and at the right the age of the newest good one.
 */
final readonly class BackupFigure
{
    private const MOST = 40;

    /** Days that have a place on a narrow screen. */
    private const NARROW = 7;

    /**
     * @param  non-empty-list<SchemaBackups>  $schemas
     * @param  non-empty-list<int>  $days their first microseconds
     */
    public static function draw(array $schemas, array $days, DateTimeZone $zone): Figure
    {
        $early = count($days) - self::NARROW;
        $head = '';
        foreach ($days as $place => $day) {
            $label = ($place - count($days) + 1) % 7 === 0 ? moment($day, MomentStyle::ShortDay, $zone) : '';
            $head .= '<div class="cell'.($place < $early ? ' early' : '').'">'.($label === '' ? '' : '<span>'.Svg::escape($label).'</span>')
                .'</div>';
        }
        $lines = "<div class=\"backup-line head\"><div class=\"name\"></div>{$head}<div class=\"age\">newest good</div></div>";
        $rows = [];
        foreach ($schemas as $number => $schema) {
            $best = $schema->byDay($days);
            if ($number < self::MOST) {
                $lines .= self::line($schema, $best, $days, $early, $zone);
            }
            foreach ($best as $place => $one) {
                $rows[] = [$schema->schema, moment($days[$place], MomentStyle::Day, $zone), $one === null ? 'none' : $one[0]->value,
                    $one === null ? '' : self::why($one[0], $one[1])];
            }
        }
        $rest = count($schemas) - self::MOST;
        $lines .= $rest > 0 ? '<p class="quiet small">'.Quantity::count($rest).' more schemas are in the table.</p>' : '';
        $late = array_filter($schemas, static fn (SchemaBackups $one): bool => $one->isLate());

        return new Figure(
            "<div class=\"backup-figure\">{$lines}</div>".self::legend(),
            count($schemas).' schemas over '.count($days).' days; late: '.($late === [] ? 'none' : implode(', ', array_map(
                static fn (SchemaBackups $one): string => "{$one->schema} (".self::age($one).')',
                array_slice($late, 0, 6),
            ))).'.',
            'The best backup that began on each day, as whoever took it told. A backup was checked where each of its files was read and '
                .'agreed with its checksum; whether it can be restored, only restoring it shows. An incremental backup is as good as all '
                .'it builds on. At the right the time since the newest good one began, which is what would be lost.',
            ['schema', 'day', 'backup', 'more'],
            $rows,
        );
    }

    /**
     * @param  list<array{BackupState, Backup}|null>  $best
     * @param  list<int>  $days
     */
    private static function line(SchemaBackups $schema, array $best, array $days, int $early, DateTimeZone $zone): string
    {
        $cells = '';
        foreach ($best as $place => $one) {
            $said = "{$schema->schema}, ".moment($days[$place], MomentStyle::ShortDay, $zone).': '.($one === null ? 'no backup'
                : "the backup {$one[0]->said()}".(self::why($one[0], $one[1]) === '' ? '' : ': '.self::why($one[0], $one[1])));
            $cells .= '<div class="cell'.($place < $early ? ' early' : '').'">'.self::mark($one[0] ?? null, $said).'</div>';
        }
        $name = Svg::escape($schema->schema);
        $age = Svg::escape(self::age($schema));

        return "<div class=\"backup-line\"><div class=\"name mono\">{$name}</div>{$cells}<div class=\"age"
            .($schema->isLate() ? ' late' : '')
            ."\">{$age}</div></div>";
    }

    private static function age(SchemaBackups $schema): string
    {
        $age = $schema->ageUs();

        return $age === null ? 'never' : Quantity::duration($age);
    }

    private static function why(BackupState $state, Backup $backup): string
    {
        return $state === BackupState::Failed || $state === BackupState::Damaged ? $backup->trouble() : '';
    }

    public static function mark(?BackupState $state, string $said): string
    {
        $title = Svg::escape(mb_strimwidth($said, 0, 300, '…'));
        $shape = match ($state) {
            BackupState::Checked => '<circle class="ring" cx="8" cy="8" r="5"/><path class="half" d="M8 3A5 5 0 0 0 8 13Z"/>',
            BackupState::Unchecked => '<circle class="ring" cx="8" cy="8" r="5"/>',
            BackupState::Damaged => '<path class="bad" d="M8 1.5 14.5 8 8 14.5 1.5 8Z"/>',
            BackupState::Baseless => '<path class="odd" d="M8 2 14 8 8 14 2 8Z"/>',
            BackupState::Failed => '<circle class="none" cx="8" cy="8" r="5"/><path class="none" d="M3.5 12.5 12.5 3.5"/>',
            BackupState::Removed => '<circle class="gone" cx="8" cy="8" r="5"/>',
            null => '<path class="gap" d="M5 8H11"/>',
        };

        return '<svg class="figure-svg backup-mark" viewBox="0 0 16 16" width="16" height="16" role="img" '
            ."aria-label=\"{$title}\"><title>{$title}</title>{$shape}</svg>";
    }

    private static function legend(): string
    {
        $parts = '';
        foreach (BackupState::cases() as $state) {
            $parts .= '<span>'.self::mark($state, $state->value).' '.Svg::escape($state->value).'</span>';
        }

        return "<p class=\"backup-key small quiet\">{$parts}<span>".self::mark(null, 'none').' none</span></p>';
    }
}
