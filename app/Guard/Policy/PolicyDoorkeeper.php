<?php

declare(strict_types=1);

namespace App\Guard\Policy;

use App\Estate\Access\Doorkeeper;
use App\Estate\Access\Passage;
use App\Estate\Connectors\Connectors;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Role;
use Fulcrion\Core\Access\Decide\Policy;

/**
 * Lets pass what the policy in force allows. Only stewards, who make the policy, and owners, who name the stewards, run
 * statements as they are written; that they did is recorded as well.
 */
final readonly class PolicyDoorkeeper implements Doorkeeper
{
    public function __construct(private PolicyStore $store, private Decisions $decisions, private Ledger $ledger, private Connectors $connectors)
    {
    }

    public function pass(User $user, Cluster $cluster, string $schema, string $sql, string $source): Passage
    {
        $policy = $this->policy();
        $subject = Decisions::subjectOf($user, $policy);
        $decision = $this->decisions->decide($policy, $subject, $cluster, $schema, $sql);
        if ($decision->error !== null && str_contains($decision->error, 'There is no table')) {
            // It may have been made a moment ago.
            $this->store->forget();
            $policy = $this->policy();
            $decision = $this->decisions->decide($policy, $subject, $cluster, $schema, $sql);
        }
        $free = self::isFree($user);
        $id = $this->decisions->keep($user, $subject, $cluster, $free ? "{$source} as {$user->role->value}" : $source, $this->store->number(), false, $decision, $this->decisions->reasons($policy, $subject, $decision));
        // The record of the decision says why; that it was made is part of the chain nobody can mend.
        $this->ledger->record($user, $free || $decision->isAllowed() ? 'asked a cluster' : 'was refused by the policy', $cluster->name, ['decision' => $id, 'outcome' => $decision->outcome(), 'policy' => $this->store->number()]);
        if ($free) {
            return new Passage($sql, [], $id);
        }
        if ($decision->error !== null) {
            throw $this->mistake($cluster, $schema, $sql, $user) ?? new SourceError($decision->error, $decision->errorAt);
        }
        if ($decision->rewritten === null) {
            throw new SourceError('Access is refused. '.$decision->sentence(), null, false, $id);
        }

        return new Passage($decision->rewritten, $decision->notes, $id);
    }

    /** Of a name that leads nowhere the cluster says it best, with what may have been meant. Nothing is run for it. */
    private function mistake(Cluster $cluster, string $schema, string $sql, User $user): ?SourceError
    {
        try {
            $this->connectors->runner($cluster)?->plan($sql, $schema, $user->email, false, static fn (): bool => false);
        } catch (SourceError $error) {
            return $error->offset === null ? null : $error;
        }

        return null;
    }

    private static function isFree(User $user): bool
    {
        return $user->role === Role::Steward || $user->role === Role::Owner;
    }

    private function policy(): Policy
    {
        return $this->store->compile($this->store->published());
    }
}
