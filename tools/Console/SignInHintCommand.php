<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Console;

use App\Platform\Models\User;
use Fulcrion\Tools\Demo\Team;
use Illuminate\Console\Command;

final class SignInHintCommand extends Command
{
    protected $signature = 'demo:sign-in';

    protected $description = 'Prints the sign-ins of the demo, where it is loaded';

    protected $hidden = true;

    public function handle(): int
    {
        $demo = User::query()->whereIn('email', array_keys(Team::PEOPLE))->orderBy('id')->get();
        foreach ($demo as $user) {
            $this->line(sprintf('  %-9s %s', $user->role->value, $user->email));
        }
        if ($demo->isNotEmpty()) {
            $this->line('  password  '.Team::PASSWORD);
        }

        return self::SUCCESS;
    }
}
