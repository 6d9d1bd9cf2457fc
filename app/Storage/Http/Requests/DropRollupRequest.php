<?php

declare(strict_types=1);

namespace App\Storage\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to RollupController::drop().
 */
final class DropRollupRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['name' => ['required', 'string', 'max:200']];
    }
}
