<?php

declare(strict_types=1);

namespace App\Platform\Support;

enum Role: string
{
    case Viewer = 'viewer';
    case Engineer = 'engineer';
    case Steward = 'steward';
    case Owner = 'owner';

    public function describe(): string
    {
        return match ($this) {
            self::Viewer => 'sees everything but literals',
            self::Engineer => 'imports, connects clusters, reveals literals',
            self::Steward => 'decides on access, reveals literals',
            self::Owner => 'all of it, and who works here',
        };
    }
}
