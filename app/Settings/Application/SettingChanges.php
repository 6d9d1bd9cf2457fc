<?php

declare(strict_types=1);

namespace App\Settings\Application;

use App\Estate\Connectors\SettingSource;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\ChangeAction;
use App\Ledger\Changes\ChangeExecutor;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\Inverse;
use App\Ledger\Changes\Proposal;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Models\ProofRecord;
use App\Platform\Models\User;
use App\Platform\Runs\Progress;
use App\Platform\Support\Clock;
use Fulcrion\Core\Proofs\Check;
use Fulcrion\Core\Settings\SetStep;
use Fulcrion\Core\Settings\SettingCommand;
use Fulcrion\Core\Settings\SettingTable;

/**
 * Corrects settings that are not as desired: sets those that can be set from here, and for all others says what to run and then looks in
 * the
 * next reading whether it was.
 */
final readonly class SettingChanges implements ChangeExecutor
{
    public const KIND = 'host-settings';

    /** What its proofs consist of. */
    public const BODY = 'settings';

    private const OBJECT = 'host ';

    public function __construct(
        private SettingsReader $reader,
        private SettingsStore $store,
        private ProfileBook $profiles,
        private Changes $changes,
        private SettingFindings $findings,
    ) {
    }

    /**
     * @param  string|null  $only one setting; null for all that are not as desired
     *
     * @throws SourceError
     */
    public function propose(Cluster $cluster, string $host, ?string $only, ?Finding $finding, User $user): Change
    {
        $steps = $inverse = [];
        $later = [];
        foreach (SettingTable::of($this->profiles->of($cluster), $this->store->of($cluster))->drift()[$host] ?? [] as $row) {
            $now = $row->values[$host] ?? null;
            if ($row->desired !== null && $now !== null && ($only === null || $only === $row->name)) {
                $steps[] = (new SetStep($row->name, $row->desired->target($now)))->written();
                $inverse[] = (new SetStep($row->name, $now))->written();
                $later[] = "After the next start {$row->name} is as before: write it into ".SettingCommand::kept($row->name).' as well.';
            }
        }
        if ($steps === []) {
            throw new SourceError($only === null ? "All settings of {$host} are as desired." : "{$only} is as desired on {$host}.");
        }
        $source = $this->reader->source($cluster);
        $byHand = array_filter($steps, static fn (string $step): bool => ! self::isSetHere($source, SetStep::read($step)->name));

        return $this->changes->propose($cluster, $finding, new Proposal(
            self::OBJECT.$host,
            (count($steps) === 1 ? 'Set '.SetStep::read($steps[0])->name : 'Set '.count($steps).' settings')." on {$host} as desired",
            self::KIND,
            $steps,
            Inverse::statements($inverse),
            0.0,
            0.0,
            0.0,
            0.0,
            [
                ...($byHand === [] ? [] : ['The commands are run by people, as root on '.$host.'. Applying looks in the readings that came '
                    .'after the approval whether it was done; the agent reads settings at its start and every hour.']),
                ...$later,
            ],
            [],
        ), $user);
    }

    public static function host(Change $change): string
    {
        return substr($change->object, strlen(self::OBJECT));
    }

    public function prepare(Change $change, Proposal $proposal): void
    {
        // Its steps and their inverse are known when it is proposed.
    }

    public function rehearse(Change $change, string $by, Progress $progress): void
    {
        $progress->tell('reading how the host is set', 0.3);
        $source = $this->reader->source($change->cluster);
        $this->refresh($change->cluster);
        $host = self::host($change);
        $now = $this->store->of($change->cluster)[$host] ?? [];
        $lines = [];
        foreach (self::steps($change->sealed_inverse) as $was) {
            $lines[] = Check::line("{$was->name}, as it is now", $was->value, $now[$was->name] ?? null);
            if ($source !== null && self::isSetHere($source, $was->name)) {
                $set = $source->trySetting($host, $was->name);
                $lines[] = Check::line("{$was->name}, set to what it is", 'taken', $set === $was->value ? 'taken' : "it is {$set}");
            }
        }
        $this->keep($change, 'rehearsal', $lines, $by, 'what can be set from here was set to what it is; nothing is otherwise');
    }

    public function apply(Change $change, string $by, Progress $progress): void
    {
        $lines = $this->bring($change, $change->sealed_steps, $change->sealed_inverse, $change->approved_us ?? 0, $progress);
        $this->keep($change, 'applied', $lines, $by, 'each setting was read back after it was set');
    }

    public function undo(Change $change, string $by, Progress $progress): void
    {
        $lines = $this->bring($change, $change->sealed_inverse, $change->sealed_steps, $change->applied_us ?? 0, $progress);
        $wrong = array_filter($lines, static fn (array $line): bool => ! $line['holds']);
        if ($wrong !== []) {
            throw new SourceError('Not every setting is as before: '.implode('; ', array_column($wrong, 'what')).'.');
        }
    }

    public function withdraw(Change $change, ChangeAction $action): string
    {
        return $this->standing($change);
    }

    public function recover(Change $change, ChangeAction $action): string
    {
        return 'The worker was killed. Each setting is set wholly or not at all. '.$this->standing($change);
    }

    /**
     * @param  list<string>  $wanted
     * @param  list<string>  $before what to set again where one is not taken
     * @return list<array{what: string, expected: string, got: string, holds: bool}>
     *
     * @throws SourceError
     */
    private function bring(Change $change, array $wanted, array $before, int $afterUs, Progress $progress): array
    {
        $host = self::host($change);
        $source = $this->reader->source($change->cluster);
        $this->refresh($change->cluster);
        $this->done($change, $source, self::steps($wanted), $afterUs);
        $set = [];
        $steps = array_values(array_filter(self::steps($wanted), static fn (SetStep $one): bool => self::isSetHere($source, $one->name)));
        try {
            foreach ($steps as $place => $step) {
                $progress->tell("setting {$step->name}", $place / count($steps));
                $source?->set($host, $step->name, $step->value);
                $set[] = $step->name;
            }
        } catch (SourceError $error) {
            foreach (self::steps($before) as $step) {
                if (in_array($step->name, $set, true)) {
                    $source->set($host, $step->name, $step->value);
                }
            }
            $this->refresh($change->cluster);
            throw $error;
        }
        $progress->tell('reading it back', 0.9);
        $this->refresh($change->cluster);
        $this->findings->report($change->cluster);
        $now = $this->store->of($change->cluster)[$host] ?? [];

        return array_map(
            static fn (SetStep $step): array => Check::line("{$step->name} on {$host}, as it is read", $step->value, $now[$step->name]
                ?? null),
            self::steps($wanted),
        );
    }

    /**
     * What people have to run must have been run before anything else is set.
     *
     * @param  list<SetStep>  $wanted
     *
     * @throws SourceError
     */
    private function done(Change $change, ?SettingSource $source, array $wanted, int $afterUs): void
    {
        $host = self::host($change);
        $readAt = $this->store->reads($change->cluster)[$host]['host'] ?? null;
        $now = $this->store->of($change->cluster)[$host] ?? [];
        foreach ($wanted as $step) {
            if (self::isSetHere($source, $step->name)) {
                continue;
            }
            if (SettingsStore::part($step->name) === 'host' && ($readAt === null || $readAt * 1_000_000 < $afterUs - 1_000_000)) {
                throw new SourceError("Run the commands on {$host} first. Its settings were last read "
                    .($readAt === null ? 'never' : 'before that, at '.moment($readAt * 1_000_000))
                    .'; the agent reads them every hour and when it is started again.');
            }
            if (($now[$step->name] ?? null) !== $step->value) {
                throw new SourceError("{$step->name} is ".($now[$step->name] ?? 'not known')." on {$host} and not {$step->value}. Run: "
                    .SettingCommand::of($step->name, $step->value));
            }
        }
    }

    /** Where everything stands, after something went wrong. */
    private function standing(Change $change): string
    {
        $now = $this->store->of($change->cluster)[self::host($change)] ?? [];

        return 'As last read: '.implode(', ', array_map(
            static fn (SetStep $one): string => "{$one->name} is ".($now[$one->name] ?? 'not known'),
            self::steps($change->sealed_steps),
        )).'.';
    }

    private function refresh(Cluster $cluster): void
    {
        // A reading of the same second as the one before would count as the same one.
        $this->reader->read($cluster, max(Clock::seconds(), 1 + $this->latest($cluster)));
    }

    private function latest(Cluster $cluster): int
    {
        return max([0, ...array_merge(...array_map(array_values(...), array_values($this->store->reads($cluster))))]);
    }

    private static function isSetHere(?SettingSource $source, string $name): bool
    {
        return $source !== null && $source->canSet($name);
    }

    /**
     * @param  list<string>  $lines
     * @return list<SetStep>
     */
    private static function steps(array $lines): array
    {
        return array_map(SetStep::read(...), $lines);
    }

    /**
     * @param  list<array{what: string, expected: string, got: string, holds: bool}>  $lines
     *
     * @throws SourceError
     */
    private function keep(Change $change, string $kind, array $lines, string $by, string $how): void
    {
        $wrong = count($lines) - Check::held($lines);
        ProofRecord::keepChecks($change, $kind, self::BODY, $lines, $by, $wrong === 0 ? 'Every setting was read as expected'
            : "{$wrong} of ".count($lines).' settings were not read as expected',
            ['where' => $change->cluster->name.', '.self::host($change), 'how' => $how]);
        if ($wrong > 0 && $kind === 'applied') {
            throw new SourceError('A setting was not read as it was set; see the proof. Undo the change.');
        }
    }
}
