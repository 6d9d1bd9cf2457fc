<?php

declare(strict_types=1);

namespace App\Access\Http;

use App\Platform\Models\User;
use Illuminate\Http\Request;

/**
 * Who is signed in.
 */
trait Person
{
    private function user(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }
}
