<?php

declare(strict_types=1);

namespace App\Tuning\Http\Requests;

use Illuminate\Foundation\Http\FormRequest;

/**
 * What a form or a caller sends to IndexController::propose().
 */
final class ProposeIndexRequest extends FormRequest
{
    /**
     * @return array<string, mixed>
     */
    public function rules(): array
    {
        return ['table' => ['required', 'string', 'max:200'], 'index' => ['required', 'string', 'max:100']];
    }
}
