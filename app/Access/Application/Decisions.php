<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Access\Models\DecisionRecord;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Access\Decide\Explainer;
use Fulcrion\Core\Access\Decide\Masking;
use Fulcrion\Core\Access\Decide\Policy;
use Fulcrion\Core\Access\Decide\Reason;
use Fulcrion\Core\Access\Decide\StatementDecider;
use Fulcrion\Core\Access\Decide\StatementDecision;
use Fulcrion\Core\Access\Decide\TableRead;
use Fulcrion\Core\Access\Policy\Subject;
use Fulcrion\Core\Sql\Fingerprinter;

/**
 * Decides on statements for people of the application, and keeps what was decided.
 */
final readonly class Decisions
{
    /** Who somebody is in the policy, as an owner has bound the account; whoever is bound to nobody holds what everyone has. */
    public static function subjectOf(User $user): string
    {
        return $user->policy_person === null ? Subject::account($user->email) : Subject::person($user->policy_person);
    }

    public function decide(Policy $policy, string $subject, Cluster $cluster, string $schema, string $sql): StatementDecision
    {
        return (new StatementDecider(
            $policy,
            $policy->reader($subject),
            $cluster->slug,
            $schema,
            $cluster->dialect,
            new Masking($cluster->dialect),
        ))->decide($sql);
    }

    /**
     * @return list<Reason>
     */
    public function reasons(Policy $policy, string $subject, StatementDecision $decision): array
    {
        return (new Explainer($policy, $policy->reader($subject)))->statement($decision);
    }

    /**
     * @param  list<Reason>  $reasons
     */
    public function keep(
        User $asker,
        string $subject,
        Cluster $cluster,
        string $source,
        int $version,
        bool $draft,
        StatementDecision $decision,
        array $reasons,
    ): int {
        $fingerprint = (new Fingerprinter($cluster->dialect))->of($decision->sql);
        $record = DecisionRecord::query()->create([
            'at_us' => Clock::microseconds(),
            'cluster_id' => $cluster->id,
            'subject' => mb_strcut($subject, 0, 190),
            'asked_by' => $asker->name,
            'source' => $source,
            'version' => $version,
            'draft' => $draft,
            'outcome' => $decision->outcome(),
            'fingerprint' => $fingerprint->id,
            'statement' => mb_strcut($fingerprint->text, 0, 20_000),
            'sealed_rewritten' => $decision->rewritten,
            'tables' => array_values(array_unique(array_map(static fn (TableRead $read): string => $read->path, $decision->reads))),
            'sealed_reasons' => $decision->error === null
                    ? array_map(static fn (Reason $reason): array => $reason->toArray(), $reasons)
                    : [['text' => $decision->error, 'weight' => 'decides', 'inner' => []]],
        ]);

        return $record->id;
    }
}
