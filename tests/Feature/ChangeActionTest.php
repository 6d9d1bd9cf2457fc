<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\SourceError;
use App\Ledger\Changes\ChangeAction;
use App\Ledger\Changes\ChangeExecutor;
use App\Ledger\Changes\ChangeKind;
use App\Ledger\Changes\ChangeKinds;
use App\Ledger\Changes\ChangeRunner;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Changes\Inverse;
use App\Ledger\Changes\Proposal;
use App\Ledger\Events\ChangeCompleted;
use App\Ledger\Models\Change;
use App\Ledger\Models\LedgerEntry;
use App\Ledger\Models\ProofRecord;
use App\Platform\Runs\Progress;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use Illuminate\Support\Facades\Event;
use Illuminate\Support\Facades\Queue;
use Tests\StepsOfChanges;
use Tests\TestCase;

/**
 * The state machine of changes, with a kind nobody else knows.
 */
final class ChangeActionTest extends TestCase
{
    use StepsOfChanges;

    public function test_every_action_begins_in_its_states_only_and_leads_where_it_should(): void
    {
        $begins = [];
        foreach (ChangeAction::cases() as $action) {
            $begins[$action->value] = array_map(
                static fn (ChangeState $s): string => $s->value,
                array_values(array_filter(ChangeState::cases(), $action->mayBeginIn(...))),
            );
        }
        self::assertSame(
            ['rehearsing' => ['proposed', 'rehearsed', 'failed'], 'applying' => ['approved'], 'undoing' => ['applied']],
            $begins,
        );
        self::assertSame(
            ['rehearsed', 'applied', 'undone'],
            array_map(static fn (ChangeAction $a): string => $a->reaches()->value, ChangeAction::cases()),
        );
        foreach (ChangeState::cases() as $state) {
            self::assertSame($state, ChangeAction::Rehearse->failsInto($state, false), 'a rehearsal that fails changes nothing');
            self::assertSame($state, ChangeAction::Undo->failsInto($state, true));
            self::assertSame($state === ChangeState::Applied ? $state : ChangeState::Failed, ChangeAction::Apply->failsInto($state, false));
            self::assertSame(
                $state === ChangeState::Applied ? $state : ChangeState::Approved,
                ChangeAction::Apply->failsInto($state, true),
            );
        }
    }

    public function test_a_kind_somebody_brings_goes_all_the_way_and_says_so(): void
    {
        Event::fake([ChangeCompleted::class]);
        Queue::fake();
        [$changes, $change, $seen] = $this->watering();
        self::assertSame(['open the valve of bed 7'], $change->sealed_steps);
        $this->step($change, ChangeAction::Rehearse);
        ProofRecord::query()->create([
            'change_id' => $change->id,
            'kind' => 'rehearsal',
            'made_us' => 1,
            'made_by' => 'x',
            'conditions' => [],
            'measured' => '',
            'sentence' => 's',
            'factor' => 1.0,
            'holds' => true,
        ]);
        $changes->approve($change->refresh(), $this->person(Role::Steward));
        $this->step($change->refresh(), ChangeAction::Apply);
        self::assertTrue($change->refresh()->canBeUndone());
        $this->step($change, ChangeAction::Undo);
        self::assertSame(['prepare', 'rehearse', 'apply', 'undo'], $seen->getArrayCopy());
        self::assertSame(
            [ChangeState::Undone, null, 'Steward', null],
            [$change->refresh()->state, $change->doing, $change->undone_by, $change->error],
        );
        Event::assertDispatchedTimes(ChangeCompleted::class, 2);
        self::assertSame(
            [
                'proposed a change',
                'asked to rehearse',
                'rehearsed a change',
                'approved a change',
                'asked to apply',
                'applied a change',
                'asked to undo',
                'undid a change',
            ],
            LedgerEntry::query()->orderBy('number')->pluck('act')->all(),
        );
        Queue::assertPushedOn('interactive', \App\Ledger\Jobs\RunChange::class);
        // Its page speaks of it in its own words, and who may decide is its own ability's to say.
        $this->actingAs($this->person(Role::Steward))
            ->get("/ledger/changes/{$change->id}")
            ->assertOk()
            ->assertSee('Valves that are turned')
            ->assertSee('href="/greenhouses/7"', false)
            ->assertDontSee('Measured by');
        $this->actingAs($this->person(Role::Engineer))
            ->post("/ledger/changes/{$change->id}/rehearse")
            ->assertForbidden();
    }

    public function test_what_fails_is_withdrawn_and_what_was_killed_is_recovered(): void
    {
        Queue::fake();
        [$changes, $change, $seen] = $this->watering();
        $change->update(['state' => ChangeState::Approved]);
        $seen['fails'] = new SourceError('The valve is stuck.');
        $this->step($change, ChangeAction::Apply);
        self::assertSame(
            [ChangeState::Failed, 'The valve is stuck. The bed is dry.', null],
            [$change->refresh()->state, $change->error, $change->doing],
        );
        $change->update(['state' => ChangeState::Approved]);
        $seen['fails'] = new SourceError('Stopped.', null, true);
        $this->step($change, ChangeAction::Apply);
        self::assertSame([ChangeState::Approved, 'Stopped by hand. The bed is dry.'], [$change->refresh()->state, $change->error]);
        unset($seen['fails']);
        foreach ([['It was half open.', ChangeState::Failed], [null, ChangeState::Applied]] as [$trouble, $state]) {
            $change->update([
                'state' => ChangeState::Approved,
                'doing' => ChangeAction::Apply,
                'approved_by' => 'Saskia',
                'heartbeat_us' => Clock::microseconds(),
            ]);
            $seen['recovers'] = $trouble;
            app(ChangeRunner::class)->recover($change);
            self::assertSame([$state, $trouble, null], [$change->refresh()->state, $change->error, $change->doing]);
        }
        self::assertSame('Saskia', $change->applied_by);
    }

    public function test_a_kind_whose_capability_is_gone_fails_in_words(): void
    {
        Queue::fake();
        [, $change] = $this->watering();
        $change->update(['kind' => 'ploughing', 'state' => ChangeState::Approved, 'doing' => ChangeAction::Apply]);
        app(ChangeRunner::class)->run($change, ChangeAction::Apply, 'x');
        self::assertSame(ChangeState::Failed, $change->refresh()->state);
        self::assertStringContainsString('No capability that is installed knows changes of the kind ploughing.', (string) $change->error);
    }

    private function step(Change $change, ChangeAction $action): void
    {
        self::take($change, $action, $this->person(Role::Steward));
        self::assertSame($action, $change->doing);
        app(ChangeRunner::class)->run($change, $action, 'Steward');
    }

    /**
     * @return array{Changes, Change, \ArrayObject<int|string, mixed>}
     */
    private function watering(): array
    {
        /** @var \ArrayObject<int|string, mixed> $seen */
        $seen = new \ArrayObject();
        $executor = new class($seen) implements ChangeExecutor
        {
            /** @param  \ArrayObject<int|string, mixed>  $seen */
            public function __construct(private \ArrayObject $seen)
            {
            }

            public function prepare(Change $change, Proposal $proposal): void
            {
                $this->seen[] = 'prepare';
                $change->update(['sealed_steps' => ["open the valve of {$change->object}"]]);
            }

            public function rehearse(Change $change, string $by, Progress $progress): void
            {
                $this->seen[] = 'rehearse';
            }

            public function apply(Change $change, string $by, Progress $progress): void
            {
                if (isset($this->seen['fails'])) {
                    throw $this->seen['fails'];
                }
                $this->seen[] = 'apply';
                $progress->tell('turning', 0.5, 1);
            }

            public function undo(Change $change, string $by, Progress $progress): void
            {
                $this->seen[] = 'undo';
            }

            public function withdraw(Change $change, ChangeAction $action): string
            {
                return 'The bed is dry.';
            }

            public function recover(Change $change, ChangeAction $action): ?string
            {
                return $this->seen['recovers'] ?? null;
            }
        };
        $this->app?->instance($executor::class, $executor);
        app(ChangeKinds::class)->register(
            new ChangeKind(
                'watering',
                $executor::class,
                ability: 'guard',
                urgent: true,
                measured: false,
                stepsTitle: 'Valves that are turned',
                address: static fn (): string => '/greenhouses/7',
            ),
        );
        $proposal = new Proposal(
            'bed 7',
            'Water bed 7',
            'watering',
            [],
            Inverse::statements(['close the valve of bed 7']),
            0.0,
            0.0,
            0.0,
            0.0,
            [],
            [],
        );

        return [app(Changes::class), app(Changes::class)->propose($this->cluster(), null, $proposal, $this->person(Role::Steward)), $seen];
    }
}
