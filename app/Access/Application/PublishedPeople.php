<?php

declare(strict_types=1);

namespace App\Access\Application;

use App\Platform\Support\PolicyPeople;
use Fulcrion\Core\Access\Policy\Kind;

/**
 * The people and service accounts of the policy in force.
 */
final readonly class PublishedPeople implements PolicyPeople
{
    public function __construct(private PolicyStore $store)
    {
    }

    public function all(): array
    {
        $people = [];
        foreach ($this->store->published()->all(Kind::People) as $name => $person) {
            $people[(string) $name] =
                $person->text('title', (string) $name).($person->text('kind') === 'service' ? ', service account' : '');
        }
        ksort($people);

        return $people;
    }
}
