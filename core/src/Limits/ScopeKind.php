<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

/**
 * Whose statements a limit counts.
 */
enum ScopeKind: string
{
    case Person = 'person';
    case Team = 'team';
    case Application = 'application';
    case Queue = 'queue';
    case Cluster = 'cluster';

    /** What of a sender it goes by. */
    public function of(Sender $sender): string
    {
        return match ($this) {
            self::Person => $sender->login,
            self::Team => $sender->team,
            self::Application => $sender->application,
            self::Queue => $sender->queue,
            self::Cluster => $sender->cluster,
        };
    }
}
