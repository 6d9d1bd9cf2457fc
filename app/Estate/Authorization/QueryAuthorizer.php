<?php

declare(strict_types=1);

namespace App\Estate\Authorization;

use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Models\User;

/**
 * Stands before every cluster: what a person asks of it is decided here first.
 */
interface QueryAuthorizer
{
    /**
     * The statement as this person may run it. Each call leaves a record of the decision.
     *
     * @param  string  $source where it was asked, in one word
     *
     * @throws SourceError when it is refused
     */
    public function pass(User $user, Cluster $cluster, string $schema, string $sql, string $source): AuthorizedQuery;

    /** What a person may be shown of what others and the system have read. */
    public function visibility(User $user, Cluster $cluster): TableVisibility;

    /** Keeps the full text of an error, which may show values, with the decision it came of. */
    public function seal(int $decision, string $text): void;
}
