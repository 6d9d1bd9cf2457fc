<?php

declare(strict_types=1);

namespace App\Storage\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to RollupController::refresh().
 */
final class RefreshRollupRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['name' => ['required', 'string', 'max:200']];
    }
}
