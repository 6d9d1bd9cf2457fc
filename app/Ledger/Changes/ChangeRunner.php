<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use App\Ledger\Events\ChangeCompleted;
use App\Ledger\Ledger;
use App\Ledger\Models\Change;
use App\Platform\Runs\Foreseen;
use App\Platform\Runs\Progress;
use App\Platform\Support\Clock;
use Fulcrion\Core\Sql\SyntaxError;
use Throwable;

/**
 * Takes a change from one state to the next by whoever carries out its kind.
 */
final readonly class ChangeRunner
{
    public function __construct(private Ledger $ledger, private ChangeKinds $kinds)
    {
    }

    public function run(Change $change, ChangeAction $action, string $by): void
    {
        try {
            $executor = $this->kinds->executor($change->kind);
            $progress = new Progress($change);
            match ($action) {
                ChangeAction::Rehearse => $executor->rehearse($change, $by, $progress),
                ChangeAction::Apply => $executor->apply($change, $by, $progress),
                ChangeAction::Undo => $executor->undo($change, $by, $progress),
            };
            $this->through($change, $action, $by);
            $change->update(self::idle());
            $this->ledger->record(null, $action->done(), Changes::label($change), ['for' => $by]);
            if ($action !== ChangeAction::Rehearse) {
                event(new ChangeCompleted($change));
            }
        } catch (Throwable $error) {
            $this->fail($change, $action, $by, $error);
        }
    }

    /**
     * Ends what a killed worker left: half-built tables go, a change that was through is called applied.
     *
     * @return string what was done
     */
    public function recover(Change $change): string
    {
        $action = $change->doing;
        if ($action === null) {
            return '';
        }
        $trouble = $this->kinds->executor($change->kind)->recover($change, $action);
        if ($trouble === null) {
            $this->through($change, $action, $action === ChangeAction::Apply ? $change->approved_by ?? 'system' : 'system');
        }
        $change->update(['error' => $trouble] + self::idle() + ($trouble === null ? [] : self::failed($change, $action, false, 'system')));
        $this->ledger->record(null, 'recovered a change', Changes::label($change), [
            'was' => $action->value,
            'through' => $trouble === null,
        ]);

        return "change {$change->id}: ".($trouble ?? 'it was through');
    }

    /** Says that an action went through; a change that measures after it was applied says so itself before. */
    private function through(Change $change, ChangeAction $action, string $by): void
    {
        if ($change->state !== $action->reaches() || $action === ChangeAction::Rehearse) {
            $change->enter($action->reaches(), $by);
        }
    }

    private function fail(Change $change, ChangeAction $action, string $by, Throwable $error): void
    {
        $stopped = $error instanceof Foreseen && $error->isStop();
        $known = $error instanceof Foreseen || $error instanceof SyntaxError;
        $what = $known ? $error->getMessage() : 'An error nobody foresaw: '.$error->getMessage();
        if (! $known) {
            report($error);
        }
        try {
            $kept = $this->kinds->executor($change->kind)->withdraw($change, $action);
        } catch (Throwable $other) {
            $kept = 'Clearing up failed too: '.$other->getMessage();
        }
        $change->update(
            ['error' => rtrim(($stopped ? 'Stopped by hand.' : rtrim($what)).' '.$kept)] +
                self::idle() +
                self::failed($change, $action, $stopped, $by),
        );
        $this->ledger->record(null, $stopped ? "stopped {$action->value}" : "failed {$action->value}", Changes::label($change), [
            'for' => $by,
            'error' => mb_strcut($what, 0, 300),
        ]);
    }

    /**
     * @return array<string, mixed>
     */
    private static function failed(Change $change, ChangeAction $action, bool $stopped, string $by): array
    {
        $state = $action->failsInto($change->state, $stopped);

        return $state === $change->state ? [] : ['state' => $state, 'failed_us' => Clock::microseconds(), 'failed_by' => $by];
    }

    /**
     * @return array<string, mixed>
     */
    private static function idle(): array
    {
        return ['doing' => null, 'claim' => null, 'progress' => '', 'stop_asked' => false, 'error' => null];
    }
}
