<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Access\Models\PolicyVersion;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Changes\InverseKind;
use App\Ledger\Changes\Refused;
use App\Ledger\Ledger;
use App\Ledger\Models\Change;
use App\Ledger\Models\ProofRecord;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Access\Change\BlastRadius;
use Fulcrion\Core\Access\Change\Replay;
use Fulcrion\Core\Access\Change\Replayed;
use Fulcrion\Core\Access\Change\Shift;
use Fulcrion\Core\Access\Policy\Document;
use Fulcrion\Core\Access\Policy\Kind;
use Fulcrion\Core\Access\Policy\PolicyProblem;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Database\UniqueConstraintViolationException;
use Illuminate\Support\Facades\DB;

/**
 * Puts drafts into force, and brings former policies back.
 */
final readonly class Publisher
{
    public function __construct(private PolicyStore $store, private Draft $draft, private AccessHistory $history, private Ledger $ledger)
    {
    }

    /** What identifies the draft somebody has looked at. */
    public function digest(): string
    {
        return hash('xxh128', $this->store->number().serialize($this->draft->document()->toArray()));
    }

    /**
     * @param  string  $digest of the draft as it was looked at
     *
     * @throws Refused
     */
    public function publish(string $comment, User $user, string $digest): PolicyVersion
    {
        if ($digest !== $this->digest()) {
            throw new Refused('The draft was changed since this page was opened. Nothing was published: look at it again.');
        }
        $document = $this->draft->document();
        if ($this->store->published()->changesTo($document) === []) {
            throw new Refused('There is nothing to publish: the draft is what is in force.');
        }
        $grave = array_values(array_filter($this->draft->problems(), static fn (PolicyProblem $problem): bool => $problem->grave));
        if ($grave !== []) {
            throw new Refused('It cannot be published: '.$grave[0].(count($grave) > 1 ? ' And '.(count($grave) - 1).' more.' : ''));
        }

        return $this->force($document, $comment, $user, null, true);
    }

    /** @throws Refused */
    public function restore(int $number, User $user, string $comment): PolicyVersion
    {
        $document = $this->store->version($number) ?? throw new Refused("There is no version {$number}.");
        if ($this->store->published()->changesTo($document) === []) {
            throw new Refused("Version {$number} is the same as what is in force.");
        }

        return $this->force($document, $comment === '' ? "Version {$number} brought back" : $comment, $user, $number, false);
    }

    /** For what comes with an installation, before anybody looks at it. */
    public function seed(Document $document, string $comment): PolicyVersion
    {
        return $this->insert($document, $comment, 'system', null);
    }

    private function force(Document $document, string $comment, User $user, ?int $restored, bool $fromDraft): PolicyVersion
    {
        $before = $this->store->published();
        $version = DB::transaction(function () use ($document, $comment, $user, $restored, $fromDraft): PolicyVersion {
            $version = $this->insert($document, $comment, $user->name, $restored);
            if ($fromDraft) {
                DB::table('policy_drafts')->delete();
            }

            return $version;
        });
        $this->ledger->record(
            $user,
            $restored === null ? 'published a policy' : 'brought a policy back',
            "policy version {$version->number}",
            ['comment' => mb_strcut($comment, 0, 300), 'changes' => count($before->changesTo($document))],
        );
        $version->update(['change_id' => $this->prove($before, $document, $version, $user)]);

        return $version;
    }

    private function insert(Document $document, string $comment, string $by, ?int $restored): PolicyVersion
    {
        try {
            return PolicyVersion::query()->create([
                'number' => $this->store->number() + 1,
                'made_us' => Clock::microseconds(),
                'made_by' => $by,
                'comment' => $comment,
                'restored' => $restored,
                'document' => json_encode($document->toArray(), JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES),
            ]);
        } catch (UniqueConstraintViolationException) {
            throw new Refused('Somebody else published at the same moment. Nothing of yours is lost: look at the draft again.');
        }
    }

    /** Before and after side by side, as of any change. */
    private function prove(Document $before, Document $after, PolicyVersion $version, User $user): int
    {
        [$old, $new] = [$this->store->compile($before), $this->store->compile($after)];
        $changes = $before->changesTo($after);
        $shifts = (new BlastRadius($old, $new))->shifts();
        $replay = (new Replay($old, $new))->run($this->history->asked());
        $cluster = Cluster::productionFirst()->firstOrFail();
        $now = Clock::microseconds();
        $people = static fn (bool $gains): int => count(
            array_unique(array_merge([], ...array_map(static fn (Shift $s): array => $s->gains === $gains ? $s->people : [], $shifts))),
        );
        $change = Change::query()->create([
            'cluster_id' => $cluster->id,
            'object' => 'policy',
            'title' => mb_strcut($version->comment, 0, 300),
            'kind' => Provisioner::POLICY,
            'state' => ChangeState::Applied,
            'inverse' => InverseKind::Statements,
            'workload' => [],
            'sealed_steps' => array_map(
                static fn ($one): string => "{$one->verb()} {$one->kind->one()} {$one->name}".
                    implode(
                        '',
                        array_map(
                            static fn (string $field, array $pair): string => "\n    {$field}: ".
                                ($pair[0] === '' ? 'nothing' : $pair[0]).
                                ' → '.
                                ($pair[1] === '' ? 'nothing' : $pair[1]),
                            array_keys($one->fields()),
                            $one->fields(),
                        ),
                    ),
                $changes,
            ),
            'sealed_inverse' => ['version '.($version->number - 1)],
            'expected' => [
                'savedUs' => 0.0,
                'savedBytes' => 0.0,
                'costUs' => 0.0,
                'costBytes' => 0.0,
                'worse' => [],
                'definition' => null,
                'before' => null,
                'statement' => '',
                'version' => $version->number,
            ],
            'asked_us' => $now,
            'asked_by' => $user->name,
            'applied_us' => $now,
            'applied_by' => $user->name,
        ]);
        $sentence =
            'Version '.
            $version->number.
            ': '.
            ($shifts === [] ? 'nobody sees more or less' : $people(false).' people see less and '.$people(true).' more').
            '; of '.
            Quantity::count($replay['executions']).
            ' executions of the last '.
            AccessHistory::DAYS.
            ' days '.
            Quantity::count(array_sum(array_map(static fn (Replayed $r): int => $r->asked->executions, $replay['changed']))).
            ' would have gone otherwise';
        ProofRecord::query()->create([
            'change_id' => $change->id,
            'kind' => 'applied',
            'body' => 'access',
            'made_us' => $now,
            'made_by' => $user->name,
            'sentence' => $sentence,
            'factor' => 1.0,
            'holds' => true,
            'conditions' => [
                'policy' => 'version '.($version->number - 1).' before, version '.$version->number.' after',
                'people looked at' => (string) count($after->all(Kind::People)),
                'columns looked at' => (string) $new->catalog->columns(),
                'statements replayed' => "{$replay['statements']} by statement and account, with the values of their latest samples",
            ],
            'measured' => json_encode(AccessProof::of($shifts, $replay), JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE),
        ]);

        return $change->id;
    }
}
