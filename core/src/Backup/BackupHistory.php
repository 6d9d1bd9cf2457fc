<?php

declare(strict_types=1);

namespace Fulcrion\Core\Backup;

/**
 * All backups of a cluster and what each of them is worth at a moment: an incremental one is as good as everything it builds on.
 */
final readonly class BackupHistory
{
    /**
     * @param  list<Backup>  $backups by the time they started
     * @param  list<BackupState>  $states of each of them
     */
    private function __construct(public array $backups, public array $states, public int $atUs)
    {
    }

    /**
     * @param  list<Backup>  $backups in any order
     * @param  int  $atUs what ended later is left out
     */
    public static function at(array $backups, int $atUs): self
    {
        $known = array_values(array_filter($backups, static fn (Backup $one): bool => $one->endedUs <= $atUs));
        usort($known, static fn (Backup $a, Backup $b): int => [$a->startedUs, $a->plan] <=> [$b->startedUs, $b->plan]);
        // Whether the chain of each plan is whole up to where one stands; nothing is, before its first full backup.
        $whole = [];
        $states = [];
        foreach ($known as $one) {
            $own = self::own($one, $atUs);
            if ($one->kind === BackupKind::Incremental && $own->isGood() && ! ($whole[$one->plan] ?? false)) {
                $own = BackupState::Baseless;
            }
            // One that failed is not there for others to build on: they build on the one before.
            if ($own !== BackupState::Failed) {
                $whole[$one->plan] = $own->isGood();
            }
            $states[] = $own;
        }

        return new self($known, $states, $atUs);
    }

    private static function own(Backup $one, int $atUs): BackupState
    {
        return match (true) {
            $one->failure !== null => BackupState::Failed,
            $one->removedUs !== null && $one->removedUs <= $atUs => BackupState::Removed,
            $one->damage !== [] => BackupState::Damaged,
            $one->checkedUs !== null => BackupState::Checked,
            default => BackupState::Unchecked,
        };
    }

    /**
     * @return list<SchemaBackups> the one that could be got back least first: never, then by the age of its newest good backup
     */
    public function bySchema(string ...$more): array
    {
        $own = $states = array_fill_keys($more, []);
        foreach ($this->backups as $place => $one) {
            foreach ($one->schemas as $schema) {
                $own[$schema][] = $one;
                $states[$schema][] = $this->states[$place];
            }
        }
        $all = array_map(fn (string $schema): SchemaBackups => new SchemaBackups($schema, $own[$schema], $states[$schema], $this->atUs),
            array_map(strval(...), array_keys($own)));
        usort($all, static fn (SchemaBackups $a, SchemaBackups $b): int => [$b->ageUs() ?? PHP_INT_MAX, $a->schema]
            <=> [$a->ageUs() ?? PHP_INT_MAX, $b->schema]);

        return $all;
    }

    /**
     * Space of what is kept.
     *
     * @return array<string, float> bytes by plan
     */
    public function keptBytes(): array
    {
        $bytes = [];
        foreach ($this->backups as $one) {
            if ($one->isKept($this->atUs)) {
                $bytes[$one->plan] = ($bytes[$one->plan] ?? 0.0) + ($one->bytes ?? 0);
            }
        }

        return $bytes;
    }
}
