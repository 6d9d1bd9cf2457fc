<?php

declare(strict_types=1);

namespace App\Profiles;

use App\Platform\Runs\BrokenRuns;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Role;
use App\Profiles\Models\KeptProfile;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(BrokenRuns::class, static fn (BrokenRuns $runs) => $runs->ends(KeptProfile::class));
    }

    protected function pages(): array
    {
        return [new Page(Bench::Tend, 'profiles', 'Where the time goes', 'profile.index', group: 'Machines', rank: 57)];
    }

    protected function abilities(): array
    {
        return ['profile' => [Role::Engineer, Role::Owner]];
    }
}
